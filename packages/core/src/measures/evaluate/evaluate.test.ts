import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  counterOf,
  END,
  gaugeOf,
  grid,
  happenings,
  histogramOf,
  INTERVAL,
  levels,
  SPAN,
} from '../../../testing/worlds.ts';
import { isEndMarker } from '../../samples/index.ts';
import {
  type Asked,
  AT_LEAST,
  type Catalogue,
  checkMeasure,
  evaluateMeasure,
  type HistogramIn,
  isThere,
  type Line,
  MISSED,
  PARTIAL,
  parseMeasure,
  type SeriesIn,
} from '../index.ts';
import { counted, growthAt } from './growth.ts';
import { lastAtMost } from './lines.ts';

const CATALOGUE: Catalogue = {
  metric: (name) =>
    name.startsWith('level')
      ? { type: 'gauge', unit: name.endsWith('bytes') ? 'bytes' : null }
      : name.startsWith('took')
        ? { type: 'histogram', unit: 'seconds' }
        : /^(requests|cpu_seconds|runs|x)_total$/.test(name)
          ? { type: 'counter', unit: name.includes('seconds') ? 'seconds' : null }
          : name === 'odd'
            ? { type: 'unknown', unit: null }
            : null,
  metrics: () => ['level', 'level_bytes', 'requests_total', 'cpu_seconds_total', 'took'],
  vital: (name) => (name === 'container.cpu.time' ? { type: 'counter', unit: 'seconds' } : null),
  vitals: () => ['container.cpu.time'],
  measure: (title) => {
    const text = MEASURES[title];
    const read = text === undefined ? null : parseMeasure(text);
    return read !== null && 'body' in read ? read.body : null;
  },
  measures: () => Object.keys(MEASURES),
};
const MEASURES: Record<string, string> = {
  'requests per second': 'read requests_total per second over 1m total overall',
  'itself, later': 'read measure "itself, too"',
  'itself, too': 'read measure "itself, later"',
};
const planOf = (text: string) => {
  const read = parseMeasure(text);
  if ('problem' in read) throw new Error(`${read.problem.text} ${JSON.stringify(read.problem.at)}: ${text}`);
  return checkMeasure(read.body, CATALOGUE);
};
const plan = (text: string) => {
  const checked = planOf(text);
  if ('problem' in checked) throw new Error(`${checked.problem.text}: ${text}`);
  return checked.plan;
};
const refused = (text: string) => {
  const checked = planOf(text);
  if (!('problem' in checked)) throw new Error(`taken: ${text}`);
  return checked.problem;
};
const timesOf = ({ times }: SeriesIn): number[] => Array.from(times);
type World = Readonly<Record<string, readonly SeriesIn[]>>;
const asked = (world: World, times: Float64Array, histograms: readonly HistogramIn[] = [], instant = false): Asked => ({
  series: ({ of, where }) =>
    (world[of.name] ?? []).filter(({ labels }) =>
      where.every((one) => one.is !== 'is' || (labels[one.label] ?? '') === one.text),
    ),
  histograms: () => histograms,
  times,
  instant,
});
const at = (text: string, world: World, times: Float64Array, histograms: readonly HistogramIn[] = []) =>
  evaluateMeasure(plan(text), asked(world, times, histograms));
const now = Float64Array.of(END);
const one = (text: string, world: World, histograms: readonly HistogramIn[] = []): number | null => {
  const [line] = at(text, world, now, histograms).lines;
  return line && isThere(line.marks, 0) ? line.values[0]! : null;
};
const even = (values: readonly number[], labels: Record<string, string> = {}): SeriesIn => ({
  labels,
  interval: INTERVAL,
  times: values.map((_, i) => END - (values.length - 1 - i) * INTERVAL),
  values,
});

describe('whatever lies between its samples', () => {
  it.each([15_000, 60_000, 300_000, 1_200_000, 3_600_000])(
    'a series %d ms apart has a value and a rate everywhere, though its endpoint is read every 15 s; a gap stays one',
    (apart) => {
      const many = 40;
      const samples = (value: (i: number) => number): SeriesIn => ({
        labels: {},
        interval: 15_000,
        times: Array.from({ length: many }, (_, i) => END - (many - 1 - i) * apart),
        values: Array.from({ length: many }, (_, i) => value(i)),
      });
      const world = { level: [samples(() => 7)], requests_total: [samples((i) => (i * apart) / 500)] };
      const times = grid(END - 20 * apart, END, Math.max(apart / 4, 5000));
      const [level] = at('read level', world, times).lines;
      expect([...level!.values].every((value) => value === 7)).toBe(true);
      const [rate] = at('read requests_total per second over 1m', world, times).lines;
      for (const value of rate!.values) expect(value).toBeCloseTo(2, 9);
      // of what is read often, a gap of many readings is no spacing
      const torn = samples(() => 7);
      const kept = Array.from(torn.times).filter((time) => time <= END - 20 * apart || time >= END - 10 * apart);
      const [holey] = at(
        'read level',
        { level: [{ ...torn, times: kept, values: kept.map(() => 7) }] },
        Float64Array.of(END - 12 * apart),
      ).lines;
      expect(isThere(holey!.marks, 0)).toBe(false);
    },
  );
});

describe('growth', () => {
  it('is what truly came between the samples that are used, across resets, gaps, births and ends', () => {
    fc.assert(
      fc.property(happenings, fc.integer({ min: 2, max: 30 }), (all, over) => {
        const { series, came } = counterOf(all);
        const own = counted(series);
        for (const t of grid(END - 20 * INTERVAL, END, INTERVAL)) {
          const grown = growthAt(own, t, over * INTERVAL);
          if (grown === null || grown === 'missed' || grown.partial || Number.isNaN(grown.value)) continue;
          const from = own.times[lastAtMost(own.times, t)]! - grown.between;
          const truth = came
            .filter(({ at: time }) => time > from && time <= t)
            .reduce((sum, { more }) => sum + more, 0);
          expect(grown.value).toBe(truth);
        }
      }),
      { numRuns: 300 },
    );
  });
  it('of adjacent windows adds up exactly where neither is partial, and never falls', () => {
    fc.assert(
      fc.property(happenings, fc.integer({ min: 2, max: 12 }), fc.integer({ min: 2, max: 12 }), (all, a, b) => {
        const own = counted(counterOf(all).series);
        for (const t of grid(END - 10 * INTERVAL, END, INTERVAL)) {
          const [late, early, both] = [
            growthAt(own, t, a * INTERVAL),
            growthAt(own, t - a * INTERVAL, b * INTERVAL),
            growthAt(own, t, (a + b) * INTERVAL),
          ];
          for (const grown of [late, early, both])
            if (grown !== null && grown !== 'missed' && !Number.isNaN(grown.value))
              expect(grown.value).toBeGreaterThanOrEqual(0);
          if (
            [late, early, both].some(
              (grown) => grown === null || grown === 'missed' || grown.partial || Number.isNaN(grown.value),
            )
          )
            continue;
          const value = (grown: typeof late) => (grown as { value: number }).value;
          // a sample from before an end counts up to there: what came back began anew behind it
          if ([late, early, both].some((grown) => (grown as { ended: boolean }).ended)) continue;
          expect(value(late) + value(early)).toBe(value(both));
        }
      }),
      { numRuns: 300 },
    );
  });
  it('counts whole: 2 of a counter at 39; born inside it counts from 0; without that it is partial', () => {
    expect(one('read runs_total growth over 24h', { runs_total: [even([37, 37, 37, 38, 39])] })).toBe(2);
    const first = [5, 7];
    const partial = at('read runs_total growth over 1h', { runs_total: [even(first)] }, now).lines[0]!;
    expect([partial.values[0], partial.marks[0]]).toEqual([2, PARTIAL]);
    const born = { ...even(first), created: [{ from: END - INTERVAL, at: END - 2 * INTERVAL }] };
    expect([...at('read runs_total growth over 1h', { runs_total: [born] }, now).lines[0]!.values]).toEqual([7]);
    const lacked = { ...even(first), lacked: [END - 2 * INTERVAL] };
    expect(one('read runs_total growth over 1h', { runs_total: [lacked] })).toBe(7);
  });
  it('takes a start of the container that serves the page for a reset, though the value is higher', () => {
    const series = { ...even([10, 12, 30]), starts: [END - 5000] };
    expect(one('read runs_total growth over 30s', { runs_total: [series] })).toBe(32);
  });
  it('per second divides by the time between the samples, needs two of them, and has none after the end', () => {
    expect(one('read cpu_seconds_total per second over 1m', { cpu_seconds_total: [even([0, 3, 6, 9, 12])] })).toBe(0.2);
    expect(one('read cpu_seconds_total per second over 1m', { cpu_seconds_total: [even([5])] })).toBeNull();
    const ended = { ...even([1, 2, 3]), times: [END - 45_000, END - 30_000, END - 15_000], values: [1, 4, NaN] };
    expect(plan('read cpu_seconds_total per second over 1m').result.unit).toEqual({ bare: false, of: { cores: 1 } });
    expect(one('read x_total per second over 1m', { x_total: [ended] })).toBeNaN();
  });
});

describe('what is computed over time', () => {
  const STEPS = ['average', 'highest', 'lowest', 'latest', 'total', 'count', 'deviation'] as const;
  /** By its definition, sample by sample. */
  const naive = (series: SeriesIn, what: (typeof STEPS)[number], from: number, to: number): number | null => {
    const kept: number[] = [];
    const weights: number[] = [];
    let before: number | null = null;
    for (let i = 0; i < series.times.length; i++) {
      const [time, value] = [series.times[i]!, series.values[i]!];
      if (isEndMarker(value)) continue;
      if (time > from && time <= to) {
        kept.push(value);
        weights.push(before === null ? INTERVAL : Math.min(INTERVAL, time - before));
      }
      before = time;
    }
    if (kept.length === 0) return null;
    const known = kept.filter((value) => !Number.isNaN(value));
    const sum = kept.reduce((all, value) => all + value, 0);
    const all = weights.reduce((total, weight) => total + weight, 0);
    switch (what) {
      case 'average':
        return kept.reduce((total, value, i) => total + value * weights[i]!, 0) / all;
      case 'highest':
        return known.length === 0 ? NaN : Math.max(...known);
      case 'lowest':
        return known.length === 0 ? NaN : Math.min(...known);
      case 'latest':
        return kept.at(-1)!;
      case 'total':
        return sum;
      case 'count':
        return kept.length;
      case 'deviation':
        return Math.sqrt(kept.reduce((total, value) => total + (value - sum / kept.length) ** 2, 0) / kept.length);
    }
  };
  it.each(STEPS)('%s is as it is defined, over any series and window', (what) => {
    fc.assert(
      fc.property(levels, fc.integer({ min: 2, max: 40 }), (all, over) => {
        const series = gaugeOf(all);
        const times = grid(END - 30 * INTERVAL, END, 7000);
        const { lines } = at(`read level ${what} over ${over * 15}s`, { level: [series] }, times);
        times.forEach((t, i) => {
          const wanted = naive(series, what, t - over * INTERVAL, t);
          const told = isThere(lines[0]!.marks, i) ? lines[0]!.values[i]! : null;
          if (wanted === null || Number.isNaN(wanted)) expect(told).toBe(wanted);
          else expect(told).toBeCloseTo(wanted, 9);
        });
      }),
      { numRuns: 60 },
    );
  });
  it('a percentile lies between the ranks beside it; the share of time above and below comes to the whole but for what is equal', () => {
    fc.assert(
      fc.property(levels, fc.integer({ min: 0, max: 100 }), (all, percentile) => {
        const series = gaugeOf(all.map((own) => ({ ...own, value: Number.isNaN(own.value) ? 3 : own.value })));
        const world = { level: [series] };
        const value = one(`read level percentile ${percentile} over 10m`, world);
        const [low, high] = [one('read level lowest over 10m', world), one('read level highest over 10m', world)];
        if (value === null) return;
        expect(value).toBeGreaterThanOrEqual(low!);
        expect(value).toBeLessThanOrEqual(high!);
        const [above, below] = [
          one('read level time above 0.5 over 10m', world),
          one('read level time below 0.5 over 10m', world),
        ];
        if (above !== null) expect(above + below!).toBeCloseTo(1, 9);
      }),
      { numRuns: 100 },
    );
  });
  it('a window is widened to two intervals, and that is said', () => {
    const { lines, notes } = at('read level average over 1s', { level: [even([1, 2, 3, 5])] }, now);
    expect([lines[0]!.values[0], notes.length]).toEqual([4, 1]);
  });
  it('a bare series holds its latest sample for two and a half intervals; a gap is no end', () => {
    const series = { ...even([4]), times: [END - 37_000] };
    expect(one('read level', { level: [series] })).toBe(4);
    const late = at('read level', { level: [{ ...series, times: [END - 38_000] }] }, now).lines[0]!;
    expect((late.marks[0]! & MISSED) !== 0).toBe(true);
  });
  it('days of a zone are bins that stand at their ends, the running one at the end and partial', () => {
    const day = Date.parse('2026-06-10T00:00:00Z');
    const hours = Array.from({ length: 60 }, (_, i) => day + i * 3_600_000);
    const series = { labels: {}, interval: 3_600_000, times: hours, values: hours.map((_, i) => i) };
    const times = grid(day, day + 59 * 3_600_000, 3_600_000);
    const told = at('read level count by day in Europe/Oslo', { level: [series] }, times);
    // midnight of Oslo is 22:00 UTC in summer
    expect([...told.times].map((time) => new Date(time).toISOString().slice(5, 13))).toEqual([
      '06-10T22',
      '06-11T22',
      '06-12T11',
    ]);
    expect([...told.lines[0]!.values]).toEqual([23, 24, 13]);
    expect([...told.lines[0]!.marks]).toEqual([0, 0, PARTIAL]);
  });
  it('after arithmetic reads whole multiples of the interval, never grid points', () => {
    const use = even(Array.from({ length: SPAN }, (_, i) => i));
    const text = 'u = read level\nt = from u * 2 average over 5m\nshow t';
    const fine = at(text, { level: [use] }, grid(END - 600_000, END, 5000));
    const coarse = at(text, { level: [use] }, grid(END - 600_000, END, 60_000));
    coarse.times.forEach((time, i) => {
      expect(coarse.lines[0]!.values[i]).toBe(fine.lines[0]!.values[fine.times.indexOf(time)]);
    });
  });
});

describe('across series', () => {
  const world = {
    requests_total: ['a', 'a', 'b'].map((service, i) =>
      even([0, 15 * (i + 1), 30 * (i + 1)], { service, pod: `p${i}` }),
    ),
  };
  const told = (lines: readonly Line[]) =>
    Object.fromEntries(lines.map((line) => [line.labels['service'] ?? '', line.values[0]]));
  it('lines that are alike in a label come together', () => {
    const per = (step: string) => told(at(`read requests_total per second over 30s ${step}`, world, now).lines);
    expect(per('total for each service')).toEqual({ a: 3, b: 3 });
    expect(per('highest for each service')).toEqual({ a: 2, b: 3 });
    expect(per('count for each service')).toEqual({ a: 2, b: 1 });
    expect(per('average overall')).toEqual({ '': 2 });
    expect(per('percentile 50 overall')).toEqual({ '': 2 });
    // a label that none has is the empty text
    expect(per('total for each nothing')).toEqual({ '': 6 });
  });
  it('a total is partial where a part was missed that still is there, and whole once that has ended', () => {
    const gap = { ...even([1, 1]), times: [END - 120_000, END - 105_000] };
    const total = (part: SeriesIn) => at('read level total overall', { level: [even([5, 5]), part] }, now).lines[0]!;
    expect([total(gap).values[0], total(gap).marks[0]]).toEqual([5, PARTIAL]);
    const ended = { ...gap, times: [...timesOf(gap), END - 90_000], values: [1, 1, END_MARK] };
    expect([total(ended).values[0], total(ended).marks[0]]).toEqual([5, 0]);
  });
  it.each([
    'average over 1m',
    'highest over 1m',
    'latest over 1m',
    'count over 1m',
    'deviation over 1m',
    'percentile 95 over 1m',
    'slope over 1m',
    'change over 1m',
    'time above 3 over 1m',
  ])('a total of “%s” is partial as long as an endpoint is silent', (step) => {
    const silent = { ...even([1, 1, 1]), times: [END - 600_000, END - 585_000, END - 570_000] };
    const total = (part: SeriesIn) =>
      at(`read level ${step} total overall`, { level: [even(Array.from({ length: 20 }, () => 5)), part] }, now)
        .lines[0]!;
    expect(total(silent).marks[0]).toBe(PARTIAL);
    const ended = { ...silent, times: [...timesOf(silent), END - 500_000], values: [1, 1, 1, END_MARK] };
    expect(total(ended).marks[0]).toBe(0);
  });
  it('top keeps the same lines over the whole window, by their mean; ties by labels', () => {
    const lines = at(
      'read level top 2',
      { level: [even([1, 1], { n: 'x' }), even([2, 2], { n: 'b' }), even([2, 2], { n: 'a' })] },
      now,
    ).lines;
    expect(lines.map(({ labels }) => labels['n'])).toEqual(['a', 'b']);
  });
});
const END_MARK = (() => {
  const found = counterOf(
    Array.from({ length: SPAN }, (_, i) => ({
      late: 0,
      more: 1,
      is: i === 40 ? ('gone' as const) : ('read' as const),
    })),
  );
  return found.series.values[40]!;
})();

describe('buckets', () => {
  const bounds = [0.1, 0.5, 1, 5, Number.POSITIVE_INFINITY];
  it('a percentile lies in the bucket of the true one, a share within what its bucket holds', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.double({ min: 0, max: 8, noNaN: true }), { minLength: 1, maxLength: 20 }), {
          minLength: SPAN,
          maxLength: SPAN,
        }),
        fc.integer({ min: 0, max: 100 }),
        (readings, percentile) => {
          const histogram = histogramOf(bounds, readings);
          const last = histogram.parts[0]!.times[SPAN - 1]!;
          const [line] = evaluateMeasure(
            plan(`read took growth over 5m percentile ${percentile} of buckets`),
            asked({}, Float64Array.of(last), [histogram]),
          ).lines;
          const seen = readings
            .slice(-20)
            .flat()
            .sort((a, b) => a - b);
          const rank = (percentile / 100) * seen.length;
          const value = line!.values[0]!;
          const low = bounds.findLast((bound) => bound < value) ?? 0;
          const high =
            (line!.marks[0]! & AT_LEAST) !== 0 ? Number.POSITIVE_INFINITY : bounds.find((bound) => bound >= value)!;
          // as many lie up to its bucket as the rank asks for, and fewer before it
          expect(seen.filter((own) => own <= high).length).toBeGreaterThanOrEqual(rank - 1e-9);
          if (percentile > 0) expect(seen.filter((own) => own <= low).length).toBeLessThanOrEqual(rank + 1e-9);
        },
      ),
      { numRuns: 80 },
    );
  });
  const told = (text: string, readings: readonly (readonly number[])[]) => {
    const histogram = histogramOf(bounds, readings);
    const times = Float64Array.of(timesOf(histogram.parts[0]!).at(-1)!);
    const [line] = evaluateMeasure(plan(text), asked({}, times, [histogram])).lines;
    return isThere(line!.marks, 0) ? [line!.values[0], line!.marks[0]] : null;
  };
  it('in the open bucket the answer is at least its lower bound; nothing observed has none', () => {
    expect(told('read took percentile 99 of buckets', [[7, 8, 9]])).toEqual([5, AT_LEAST]);
    expect(told('read took percentile 99 of buckets', [[]])).toBeNull();
    expect(told('read took share below 10s of buckets', [[7, 0.05]])).toEqual([0.5, AT_LEAST]);
    expect(told('read took share below 500ms of buckets', [[0.05, 0.2, 3, 3]])).toEqual([0.5, 0]);
    expect(told('read took share below 50ms of buckets', [[0.05, 0.06]])).toEqual([0.5, 0]);
  });
  it('satisfaction counts those up to the target whole, those up to four times it half', () => {
    expect(told('read took satisfaction with target 500ms', [[0.05, 0.3, 0.8, 4]])).toEqual([
      (0.5 + (0.75 + 0.25 * 0.25)) / 2,
      0,
    ]);
  });
  it('that differ are combined at the bounds that they have in common, and that is said', () => {
    const world = [histogramOf([1, 2, 5], [[0.5, 1.5, 3]]), histogramOf([1, 5], [[0.5, 4]])];
    const times = Float64Array.of(world[0]!.parts[0]!.times[0]!);
    const own = evaluateMeasure(plan('read took share below 1s of buckets overall'), asked({}, times, world));
    expect(own.lines[0]!.values[0]).toBeCloseTo(2 / 5);
    expect(own.notes[0]).toMatch(/in common/);
  });
});

describe('arithmetic', () => {
  const world = {
    level: [even([1, 2], { pod: 'a' }), even([3, 4], { pod: 'b' })],
    level_more: [even([10, 10], { pod: 'a' }), even([0, 0], { pod: 'c' })],
  };
  const told = (text: string) =>
    Object.fromEntries(
      at(text, world, now)
        .lines.filter(({ marks }) => isThere(marks, 0))
        .map(({ labels, values }) => [labels['pod'] ?? '', values[0]]),
    );
  it('pairs by equal labels, with a number, and with one line without labels', () => {
    expect(told('a = read level\nb = read level_more\nshow a + b')).toEqual({ a: 12 });
    expect(told('a = read level\nshow -a * 2 + 1')).toEqual({ a: -3, b: -7 });
    expect(told('a = read level\nall = from a total overall\nshow a / all as percent')).toEqual({ a: 2 / 6, b: 4 / 6 });
    expect(told('a = read level\nb = read level_more\nshow larger of (a, b)')).toEqual({ a: 10 });
    expect(told('show 2 * (3 - 1)')).toEqual({ '': 4 });
  });
  it('has no value divided by zero; what is missing may count as 0', () => {
    expect(told('a = read level_more\nshow 1 / a')).toEqual({ a: 0.1 });
    expect(told('a = read level missing counts 0\nb = read level_more\nshow a + b')).toEqual({ a: 12, c: 0 });
    expect(told('a = read level\nb = read level_more missing counts 0\nshow a + b')).toEqual({ a: 12, b: 4 });
  });
  it('pairs many to one on named labels; what is not clear is an error that names both', () => {
    const many = {
      level: [even([1, 2], { team: 't', pod: 'a' }), even([3, 4], { team: 't', pod: 'b' })],
      level_more: [even([2, 2], { team: 't' })],
    };
    const { lines } = at('a = read level\nb = read level_more\nshow a / b paired by team', many, now);
    expect(lines.map(({ labels, values }) => [labels['pod'], values[0]])).toEqual([
      ['a', 1],
      ['b', 2],
    ]);
    expect(() => at('a = read level\nb = read level\nshow b / a paired by team', many, now)).toThrow(
      /not clear: .*“a”.*“b”/,
    );
  });
});

describe('what does not fit', () => {
  it.each([
    ['read level per second over 5m', /“per second” needs a counter; “level” is a gauge\. “change over 5m”\?/],
    ['read odd growth over 5m', /of no known type.*“treat as counter”/],
    ['read requests_total change over 5m', /needs a gauge; “requests_total” is a counter/],
    ['read requests_total total overall growth over 5m', /needs a counter; “requests_total” is a gauge/],
    ['read took average over 5m', /needs values; “took” is a histogram/],
    ['read level percentile 95 of buckets', /needs a histogram/],
    ['a = read took\nshow a', /buckets are no values/],
    [
      'a = read level_bytes\nb = read took percentile 95 of buckets\nshow a + b',
      /one side is bytes, the other seconds/,
    ],
    ['read level_bytes keep above 5s', /one side is bytes, the other seconds/],
    ['a = read level_bytes\nshow a as seconds', /of another kind: this is bytes/],
    ['a = read level\nshow b', /“b” is not bound/],
    ['a = read level\na = read level\nshow a', /bound twice/],
    ['read vital container.cpu.tim', /no vital/],
    ['read measure "requests per secnd"', /no measure/],
    ['read measure "itself, later"', /cannot read itself/],
    ['read level where a matches /(/', /no pattern/],
    ['read level average over 5m whatever the scope', /right behind what is read/],
    ['read level forecast 9999w from 1h', /400d is the most/],
    ['read level average over 401d', /400d is the most/],
  ])('%s', (text, words) => {
    expect(refused(text).text).toMatch(words);
  });
  it('names the nearest, and takes a name that nothing bears for no error', () => {
    expect(refused('read vital container.cpu.tim').nearest).toBe('container.cpu.time');
    expect(refused('ab = read level\nshow ac').nearest).toBe('ab');
    expect(plan('read requsts_total growth over 5m').notes).toEqual([
      'Nothing bears the name “requsts_total”; “requests_total” is the nearest.',
    ]);
  });
  it('whatever is done with a name that nothing bears, nothing is drawn', () => {
    for (const steps of [
      'growth over 5m',
      'percentile 95 of buckets overall',
      'keep above 5MiB',
      'change over 5m',
      'top 3',
    ])
      expect(at(`read not_there ${steps}`, {}, now).lines).toEqual([]);
  });
  it('reads a saved measure as if it stood there', () => {
    const world = { requests_total: [even([0, 15, 30, 45, 60])] };
    expect(one('read measure "requests per second" highest over 1m', world)).toBe(1);
  });
});

describe('a trend', () => {
  const line = even(Array.from({ length: SPAN }, (_, i) => 100 + 2 * i));
  it('says when a bound is reached, by the same line that Usage has', () => {
    // 2 each 15 s: at 258, 742 more take 5565 s
    expect(one('read level time until 1000 from 15m', { level: [line] })).toBeCloseTo(5565, 3);
    expect(one('read level time until 200 from 15m', { level: [line] })).toBe(0);
    const away = at('read level time until 50 from 15m', { level: [line] }, now).lines[0]!;
    expect([away.values[0], away.marks[0]]).toEqual([90 * 86_400, AT_LEAST]);
  });
  it('goes on by as much as it is asked for, with a band; of one moment it is the value then', () => {
    const own = at('read level forecast 10m from 15m', { level: [line] }, grid(END - 300_000, END, 60_000));
    expect(own.times.at(-1)).toBe(END + 600_000);
    expect(own.lines[0]!.values.at(-1)).toBeCloseTo(258 + 80, 6);
    const { lines } = evaluateMeasure(
      plan('read level forecast 10m from 15m'),
      asked({ level: [line] }, now, [], true),
    );
    expect(lines[0]!.values[0]).toBeCloseTo(338, 6);
    expect(lines[0]!.band!.low[0]).toBeLessThanOrEqual(338);
  });
  it('knows what is usual at this hour: of days of the same kind, not of today', () => {
    const step = 300_000;
    const end = Date.parse('2026-11-27T12:00:00Z'); // a Friday
    const times = grid(end - 21 * 86_400_000, end, step);
    const series = {
      labels: {},
      interval: step,
      times,
      values: times.map((time) =>
        new Date(time).getUTCDay() % 6 === 0 ? 5 : new Date(time).getUTCHours() < 12 ? 20 : 40,
      ),
    };
    const { lines, notes } = evaluateMeasure(
      plan('read level usual from 21d'),
      asked({ level: [series] }, Float64Array.of(end - 6 * 3_600_000), [], true),
    );
    expect([lines[0]!.values[0], notes]).toEqual([20, []]);
  });
});

describe('what would take very much', () => {
  const series = { ...even([1, 2, 3]), interval: 1000 };
  it('is refused before it is begun, with what to do', () => {
    const text = 'a = read level\nb = from a * 2 average over 300d\nshow b';
    expect(() => at(text, { level: [series] }, now)).toThrow(/looks at \d+ moments .* 50000 is the most/);
  });
  it('goes on ahead for a few hundred points at most, and is ended when whoever counts its work says so', () => {
    const own = at(
      'read level forecast 400d from 15m',
      { level: [even(Array.from({ length: SPAN }, (_, i) => i))] },
      now,
    );
    expect(own.times.length).toBeLessThanOrEqual(402);
    let touched = 0;
    const worked = (values: number) => {
      touched += values;
      if (touched > 100) throw new Error('enough');
    };
    expect(() =>
      evaluateMeasure(plan('read level average over 5m total overall'), {
        ...asked({ level: [series] }, grid(END - 600_000, END, 1000)),
        worked,
      }),
    ).toThrow('enough');
  });
});

describe('whatever is asked', () => {
  const STEPS = [
    'per second over 1m',
    'growth over 2m',
    'total for each s',
    'average overall',
    'average over 2m',
    'highest over 45s',
    'latest over 1m',
    'keep above 2',
    '1m earlier',
    'percentile 90 over 3m',
    'change over 1m',
    'slope over 2m',
    'time above 3 over 2m',
    'deviation over 2m',
    'fill gaps up to 2m with last',
    'missing counts 0',
    'rename label s to t',
    'called "{s}"',
    'count for each s, p',
    'where s is "a"',
  ] as const;
  const body = fc
    .tuple(fc.constantFrom('level', 'requests_total'), fc.array(fc.constantFrom(...STEPS), { maxLength: 4 }))
    .map(([name, steps]) => [`read ${name}`, ...steps].join('\n  '));
  it('a value is the same when it is asked for live and later, alone and among others', () => {
    fc.assert(
      fc.property(body, fc.array(happenings, { minLength: 2, maxLength: 2 }), levels, (text, counters, level) => {
        const checked = planOf(text);
        if ('problem' in checked) return;
        const world = {
          requests_total: counters.map((all, i) => counterOf(all, { s: i === 0 ? 'a' : 'b', p: String(i) }).series),
          level: [gaugeOf(level, { s: 'a', p: '0' }), gaugeOf([...level].reverse(), { s: 'b', p: '1' })],
        };
        const until = (end: number): World =>
          Object.fromEntries(
            Object.entries(world).map(([name, all]) => [
              name,
              all.map((series) => {
                const count = timesOf(series).filter((time) => time <= end).length;
                return {
                  ...series,
                  times: timesOf(series).slice(0, count),
                  values: Array.from(series.values).slice(0, count),
                };
              }),
            ]),
          );
        const times = grid(END - 8 * 60_000, END, 60_000);
        const later = evaluateMeasure(checked.plan, asked(world, times));
        for (const i of [2, 5, times.length - 1]) {
          const live = evaluateMeasure(checked.plan, asked(until(times[i]!), times.subarray(i, i + 1)));
          const told = ({ lines }: typeof later, place: number) =>
            lines
              .filter(({ marks }) => isThere(marks, place))
              .map(({ labels, name, values, marks }) =>
                JSON.stringify([labels, name, String(values[place]), marks[place]]),
              )
              .sort();
          expect(told(live, 0)).toEqual(told(later, i));
        }
      }),
      { numRuns: 250 },
    );
  });
});
