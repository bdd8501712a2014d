// The map of 2,000 boxes and 6,000 links: the server's work (judging, causes, narrowing), laying out the whole in lanes, against a plain pass
// over the same links that only adds up their minutes. Spans that are put into links, a second of processor. npm run bench -- map [boxes] [links]
import { mapBySteps } from '../packages/answers/dist/map/index.js';
import { inLanes, LinkFolder, LinkTotals } from '../packages/core/dist/links/index.js';
import { encodeChunk } from '../packages/core/dist/samples/index.js';
import { mapWorld } from './mapWorld.mjs';
import { medianOf, report } from './measure.mjs';

const [BOXES = 2000, LINKS = 6000] = process.argv.slice(2).map(Number);
const RUNS = 5;
const { at: AT, below, end, pairs, read, known } = mapWorld(BOXES, LINKS);
const sum = () => {
  let all = 0;
  for (const what of [read.requests, read.failures, read.refused])
    for (const { values } of what) for (const value of values) all += value;
  return all;
};
let longest = 0;
const mapOf = () => {
  const steps = mapBySteps(read, known);
  for (;;) {
    const began = performance.now();
    const next = steps.next();
    longest = Math.max(longest, performance.now() - began);
    if (next.done) return next.value;
  }
};
const answer = mapOf();
const boxes = answer.boxes.map(({ key, namespace }) => ({ key, lane: namespace }));
const [plain, worked, laid] = medianOf(RUNS, sum, mapOf, () => inLanes(boxes, answer.links));
report(
  'map: judged, causes found, narrowed',
  `adding up the same minutes ${plain.toFixed(0)} ms`,
  `${(worked / plain).toFixed(1)} ×`,
  `${worked.toFixed(0)} ms for ${answer.links.length} links of ${answer.boxes.length} boxes, ${answer.trouble.length} entries, longest stop ${longest.toFixed(0)} ms`,
);
report(
  'map: laid out whole',
  `the same`,
  `${(laid / plain).toFixed(1)} ×`,
  `${laid.toFixed(0)} ms for ${boxes.length} boxes in lanes; aim: the first picture within 1 s, no stop over 50 ms`,
);

// ---- spans into links -------------------------------------------------------------------------------------------------
const SPANS = 200_000;
const start = AT - 600_000;
const span = (trace, id, parentId, kind, at) => ({
  traceId: `${trace}`.padStart(32, '0'),
  spanId: `${id}`,
  parentId,
  name: 'x',
  kind,
  at,
  took: 5,
  failed: false,
  message: '',
  fields: [['http.request.method', 'GET']],
  events: [],
  links: [],
});
const batches = Array.from({ length: SPANS / 2 }, (_, i) => {
  const [from, to] = pairs[i % pairs.length];
  return [
    [end(from), [span(i, `c${i}`, '', 'client', start + i)]],
    [end(to), [span(i, `s${i}`, `c${i}`, 'server', start + i + 1)]],
  ];
}).flat();
const began = process.cpuUsage();
const folder = new LinkFolder({ named: () => end(0) });
const totals = new LinkTotals();
let folded = 0;
for (const [at, spans] of batches) folder.add(at, spans, start);
for (const request of folder.fold(AT, AT)) {
  totals.add(request);
  folded++;
}
const { user, system } = process.cpuUsage(began);
report(
  'spans put into links',
  'of one processor',
  `${Math.round(SPANS / ((user + system) / 1e6))} /s`,
  `${folded} requests of ${totals.size} links by side`,
);

// ---- what links keep a day: of some, over some hours  --------------------------------------------------------------------------------------
const KEPT = 100;
const MINUTES = 360;
const day = new LinkTotals();
/** By series, what it told each minute. */
const told = new Map();
const times = Array.from({ length: MINUTES }, (_, i) => start + i * 60_000);
for (const at of times) {
  for (let i = 0; i < KEPT; i++) {
    const requests = 1 + below(30);
    for (const seenBy of ['caller', 'answerer']) {
      const link = { from: end(i), to: end(i + KEPT), toService: 'x', protocol: 'http', port: '8080' };
      const one = {
        link,
        seenBy,
        spanId: '',
        minute: at,
        failed: false,
        refused: false,
        calls: 1,
        seen: 1,
        messages: 1,
      };
      for (let n = 0; n < requests; n += 10)
        day.add(
          {
            ...one,
            seconds: 0.01 + below(200) / 1000,
            own: seenBy === 'answerer' ? 0.005 : null,
            messages: 10,
            seen: 10,
          },
          at,
        );
    }
  }
  for (const { name, samples } of day.families(at + 60_000))
    for (const { labels, suffix, value } of samples) {
      const key = `${name}${suffix ?? ''}${JSON.stringify(labels)}`;
      const own = told.get(key);
      if (own) own.push(value);
      else told.set(key, [value]);
    }
}
let bytes = 0;
let samples = 0;
for (const values of told.values()) {
  bytes += encodeChunk({ times: times.slice(0, values.length), values: values.slice(0, times.length) }).length;
  samples += values.length;
}
report(
  '1,000 links of both sides, a day',
  '16 B a sample',
  `${((16 * samples) / bytes).toFixed(1)} × less`,
  `${((bytes * (1440 / MINUTES) * (1000 / KEPT)) / 2 ** 20).toFixed(0)} MiB by ${KEPT} over ${MINUTES} min: ${(told.size / KEPT).toFixed(0)} a link, ${(bytes / samples).toFixed(2)} B a sample`,
);
