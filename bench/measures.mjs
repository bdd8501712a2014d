// What each step of a measure costs, against decoding the samples that it works on: a day of 200 series every 15 s, 400 moments.
import { checkMeasure, evaluateMeasure, parseMeasure } from '../packages/core/dist/measures/index.js';
import { decodeChunk, encodeChunk } from '../packages/core/dist/samples/index.js';
import { medianOf, report } from './measure.mjs';

const [SERIES, INTERVAL, DAY, POINTS, CHUNK] = [200, 15_000, 86_400_000, 400, 480];
const END = Math.floor(Date.parse('2026-11-29T12:00:00Z') / INTERVAL) * INTERVAL;
const COUNT = DAY / INTERVAL;
let seed = 42;
const roll = () => {
  seed = (seed * 16807) % 2147483647;
  return seed / 2147483647;
};
const sampleTimes = Float64Array.from({ length: COUNT }, (_, i) => END - DAY + (i + 1) * INTERVAL);
const made = (next) =>
  Array.from({ length: SERIES }, (_, n) => {
    let now = Math.floor(roll() * 1e6);
    const values = Float64Array.from({ length: COUNT }, () => {
      now = next(now);
      return now;
    });
    return {
      labels: { namespace: `ns${n % 20}`, pod: `pod${n}` },
      interval: INTERVAL,
      times: sampleTimes,
      values,
      lacked: [],
    };
  });
const gauges = made((now) => Math.max(0, now + Math.round((roll() - 0.5) * 4096)));
const counters = made((now) => now + Math.floor(roll() * 20));
const bounds = [0.1, 0.5, 1, 5, Number.POSITIVE_INFINITY];
const histograms = Array.from({ length: SERIES / bounds.length }, (_, n) => ({
  labels: { namespace: `ns${n % 20}`, pod: `pod${n}` },
  interval: INTERVAL,
  bounds,
  parts: counters
    .slice(n * bounds.length, (n + 1) * bounds.length)
    .map((part, i) => ({ ...part, values: part.values.map((value) => value * (i + 1)) })),
  exponential: false,
}));
const catalogue = {
  metric: (name) =>
    ({
      level: { type: 'gauge', unit: 'bytes' },
      work_total: { type: 'counter', unit: null },
      took: { type: 'histogram', unit: 'seconds' },
    })[name] ?? null,
  metrics: () => [],
  vital: () => null,
  vitals: () => [],
  measure: () => null,
  measures: () => [],
};
const times = Float64Array.from({ length: POINTS }, (_, i) => END - (POINTS - 1 - i) * (DAY / POINTS));
const chunks = gauges.flatMap(({ values }) =>
  Array.from({ length: COUNT / CHUNK }, (_, i) =>
    encodeChunk({
      times: Array.from(sampleTimes.subarray(i * CHUNK, (i + 1) * CHUNK)),
      values: Array.from(values.subarray(i * CHUNK, (i + 1) * CHUNK)),
    }),
  ),
);
const texts = {
  'read, its last values': 'read level',
  growth: 'read work_total growth over 5m',
  'per second': 'read work_total per second over 5m',
  'average over 5m': 'read level average over 5m',
  'highest over 1h': 'read level highest over 1h',
  'deviation over 1h': 'read level deviation over 1h',
  'percentile 95 over 1h': 'read level percentile 95 over 1h',
  'slope over 1h': 'read level slope over 1h',
  'time above over 1h': 'read level time above 500KiB over 1h',
  'total for each namespace': 'read level total for each namespace',
  'percentile 95 overall': 'read level percentile 95 overall',
  'top 5': 'read level top 5',
  'an operator': 'a = read level\nb = read level\nshow a / b',
  '1h earlier': 'read level 1h earlier',
  'percentile 95 of buckets': 'read took per second over 5m percentile 95 of buckets',
};
const samples = SERIES * COUNT;
for (const [name, text] of Object.entries(texts)) {
  const parsed = parseMeasure(text);
  const checked = 'body' in parsed ? checkMeasure(parsed.body, catalogue) : parsed;
  if ('problem' in checked) throw new Error(`${text}: ${checked.problem.text}`);
  const asked = {
    series: ({ of }) => (of.name === 'work_total' ? counters : gauges),
    histograms: () => histograms,
    times,
    instant: false,
  };
  const [decoded, evaluated] = medianOf(
    5,
    () => {
      for (const chunk of chunks) decodeChunk(chunk);
    },
    () => evaluateMeasure(checked.plan, asked),
  );
  report(
    name,
    'decoding alone',
    `${(evaluated / decoded).toFixed(2)} ×`,
    `${((evaluated / samples) * 1e6).toFixed(0)} ms a million samples; decoding ${((decoded / samples) * 1e6).toFixed(0)} ms`,
  );
}
