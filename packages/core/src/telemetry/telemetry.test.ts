import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readPage, samplesOf, writePage } from '../exposition/index.ts';
import { atScale, type Buckets, boundOf, boundsOf, type Exponential, joined } from './exponential.ts';
import { familyName } from './names.ts';
import { type Accumulated, CountedOn, NOTHING_YET, pushedPage } from './pushedPage.ts';
import { readMetrics } from './readMetrics.ts';

/** The plain way: every value looked up on its own. */
function counted(values: readonly number[], scale: number): Exponential {
  const buckets = (own: readonly number[]): Buckets => {
    if (own.length === 0) return { offset: 0, counts: [] };
    const indexes = own.map((value) => Math.ceil(Math.log2(value) * 2 ** scale) - 1);
    const offset = Math.min(...indexes);
    const counts = new Array<number>(Math.max(...indexes) - offset + 1).fill(0);
    for (const index of indexes) counts[index - offset]!++;
    return { offset, counts };
  };
  return {
    scale,
    zeroCount: values.filter((value) => value === 0).length,
    zeroThreshold: 0,
    positive: buckets(values.filter((value) => value > 0)),
    negative: buckets(values.filter((value) => value < 0).map((value) => -value)),
  };
}
// away from the bounds themselves, where the logarithm may round either way
const value = fc.double({ min: 1e-6, max: 1e6, noNaN: true }).map((own) => own * 1.000000123);
const values = fc.array(
  fc.oneof(
    value,
    value.map((own) => -own),
    fc.constant(0),
  ),
  { maxLength: 60 },
);
const scale = fc.integer({ min: -4, max: 6 });
const at = (bounds: ReturnType<typeof boundsOf>) => new Map(bounds.map(({ bound, count }) => [bound, count]));

describe('exponential histograms', () => {
  it('count at every bound exactly the values below it', () => {
    fc.assert(
      fc.property(values, scale, (own, at_) => {
        for (const { bound, count } of boundsOf(counted(own, at_)))
          expect(count).toBe(own.filter((one) => one <= bound).length);
      }),
    );
  });
  it('have ascending bounds, no more than are kept, and lose nobody', () => {
    fc.assert(
      fc.property(values, scale, (own, at_) => {
        const bounds = boundsOf(counted(own, at_));
        expect(bounds.length).toBeLessThanOrEqual(163);
        for (let i = 1; i < bounds.length; i++) expect(bounds[i]!.bound).toBeGreaterThan(bounds[i - 1]!.bound);
        if (own.length > 0) expect(bounds.at(-1)!.count).toBe(own.length);
      }),
    );
  });
  it('have at a coarser scale the same counts at the bounds that are left', () => {
    fc.assert(
      fc.property(values, scale, fc.integer({ min: 0, max: 4 }), (own, from, by) => {
        const fine = at(boundsOf(counted(own, from)));
        for (const { bound, count } of boundsOf(atScale(counted(own, from), from - by)))
          if (fine.has(bound)) expect(fine.get(bound)).toBe(count);
      }),
    );
  });
  it('joined are what both counted together', () => {
    fc.assert(
      fc.property(values, values, scale, scale, (a, b, one, two) => {
        const both = [...a, ...b];
        for (const { bound, count } of boundsOf(joined(counted(a, one), counted(b, two))))
          expect(count).toBe(both.filter((own) => own <= bound).length);
      }),
    );
  });
  it('take what lies within a wider zero bucket into it', () => {
    const wide: Exponential = { ...counted([], 0), zeroThreshold: 4, zeroCount: 1 };
    const sum = joined(counted([1.5, 3, 9], 0), wide);
    expect(sum.zeroCount).toBe(3);
    expect(boundsOf(sum).map(({ bound, count }) => [bound, count])).toEqual([
      [4, 3],
      [8, 3],
      [16, 4],
    ]);
  });
  it('far apart are joined by a coarser scale, not by a list as long as the way', () => {
    const one: Exponential = { ...counted([], 20), positive: { offset: -(2 ** 30), counts: [1] } };
    const two: Exponential = { ...counted([], 20), positive: { offset: 2 ** 30 - 1, counts: [1] } };
    const both = joined(one, two);
    expect(both.positive.counts.length).toBeLessThanOrEqual(320);
    expect(both.positive.counts.reduce((a, b) => a + b)).toBe(2);
    expect(boundOf(0, 3)).toBe(8);
  });
});

const attribute = (key: string, text: string) => ({ key, value: { stringValue: text } });
const request = (metrics: unknown[], attributes = [attribute('service.name', 'gate')]) => ({
  resourceMetrics: [{ resource: { attributes }, scopeMetrics: [{ metrics }] }],
});
const sumOf = (value_: number, time: number, temporality = 1) => ({
  name: 'gate.lifts',
  unit: '{lift}',
  sum: {
    aggregationTemporality: temporality,
    isMonotonic: true,
    dataPoints: [{ asInt: String(value_), timeUnixNano: `${time}000000`, attributes: [attribute('side', 'north')] }],
  },
});
const pointsOf = (metrics: unknown[]) => readMetrics(request(metrics)).resources[0]!.points;
const exponentialOf = (scale_: number, positive: unknown, time: number, temporality = 1) => ({
  name: 'gate.wait',
  exponentialHistogram: {
    aggregationTemporality: temporality,
    dataPoints: [{ scale: scale_, count: '1', sum: 1, positive, timeUnixNano: `${time}000000` }],
  },
});
/** The two ends of what a scale may count: the smallest double and the largest one. */
const lowest = (scale_: number) => Math.floor(-1074 * 2 ** scale_) - 1;
const highest = (scale_: number) => Math.ceil(1024 * 2 ** scale_) - 1;

describe('offsets of exponential histograms', () => {
  it('outside the range of doubles are refused, at every scale, and cost nothing else', () => {
    for (let own = -10; own <= 20; own++)
      for (const offset of [lowest(own) - 1, highest(own) + 1, 1e8 * 2 ** Math.max(0, own), -(2 ** 31), 2 ** 31 - 1]) {
        if (offset >= lowest(own) && offset <= highest(own)) continue;
        const read = readMetrics(request([exponentialOf(own, { offset, bucketCounts: ['1'] }, 1000), sumOf(1, 1000)]));
        expect(read.refused).toBe(1);
        expect(read.problem).toMatch(/range of doubles/);
        expect(read.resources[0]!.points).toHaveLength(1);
      }
  });
  it('at the ends of the range are taken', () => {
    for (let own = -10; own <= 20; own++)
      for (const offset of [lowest(own), highest(own)])
        expect(pointsOf([exponentialOf(own, { offset, bucketCounts: ['1'] }, 1000)])).toHaveLength(1);
  });
  it('of buckets that count nothing say nothing', () => {
    const [point] = pointsOf([exponentialOf(-10, { offset: -100_000_000, bucketCounts: ['0', '0'] }, 1000)]);
    expect(point!.value).toMatchObject({ buckets: { positive: { offset: 0, counts: [] } } });
  });
  it('never say how long a list is, whatever is pushed one after the other', () => {
    const buckets = fc.record({
      offset: fc.oneof(fc.integer(), fc.constantFrom(-100_000_000, 100_000_000, -2, -1, 0)),
      bucketCounts: fc.array(fc.nat(3).map(String), { maxLength: 40 }),
    });
    const push = fc.record({ scale: fc.integer({ min: -10, max: 20 }), positive: buckets });
    fc.assert(
      fc.property(fc.array(push, { minLength: 1, maxLength: 6 }), (pushes) => {
        const kept = new CountedOn();
        pushes.forEach(({ scale: own, positive }, i) => {
          const pushed = pushedPage(pointsOf([exponentialOf(own, positive, 1000 + i)]), kept);
          if (pushed.counted) kept.take(pushed.counted);
        });
        for (const { positive } of kept.exponentials.values()) expect(positive.counts.length).toBeLessThan(400);
      }),
    );
  });
});
/** What is counted on after a push. */
const after = (before: Accumulated, { counted: own }: { counted: Accumulated | null }) => {
  const all = new CountedOn(before);
  if (own) all.take(own);
  return all;
};
const pageOf = (metrics: unknown[], before: Accumulated = NOTHING_YET) => {
  const pushed = pushedPage(pointsOf(metrics), before);
  const page = readPage(Buffer.from(writePage(pushed.families)), { form: 'openmetrics' });
  return { ...pushed, page, samples: samplesOf(page) };
};

describe('pushed metrics', () => {
  it('are named the OpenMetrics way', () => {
    expect(familyName('http.server.request.duration', 's')).toBe('http_server_request_duration_seconds');
    expect(familyName('gate.lifts', '{lift}')).toBe('gate_lifts');
    expect(familyName('disk.io', 'By/s')).toBe('disk_io_bytes_per_second');
    expect(familyName('memory.bytes', 'By')).toBe('memory_bytes');
    expect(familyName('2.masts', '1')).toBe('_2_masts');
  });
  it('become a page without problems, whatever kind they are', () => {
    const time = '1764000000000000000';
    const { page, samples } = pageOf([
      sumOf(7, 1_764_000_000_000, 2),
      { name: 'gate.open', gauge: { dataPoints: [{ asDouble: 0.5, timeUnixNano: time }] } },
      {
        name: 'wait',
        unit: 's',
        histogram: {
          aggregationTemporality: 2,
          dataPoints: [
            { explicitBounds: [1, 5], bucketCounts: ['2', '1', '1'], count: '4', sum: 12, timeUnixNano: time },
          ],
        },
      },
      {
        name: 'depth',
        exponentialHistogram: {
          aggregationTemporality: 2,
          dataPoints: [
            {
              scale: 0,
              count: '3',
              sum: 7,
              zeroCount: '1',
              positive: { offset: 0, bucketCounts: ['1', '1'] },
              timeUnixNano: time,
            },
          ],
        },
      },
      {
        name: 'size',
        summary: {
          dataPoints: [{ count: '2', sum: 3, quantileValues: [{ quantile: 0.5, value: 1.5 }], timeUnixNano: time }],
        },
      },
    ]);
    expect(page.problems).toEqual([]);
    const found = Object.fromEntries(
      samples.map(({ name, labels, value: own }) => [`${name} ${labels.map((pair) => pair.join('=')).join(' ')}`, own]),
    );
    expect(found).toEqual({
      'gate_lifts_total side=north': 7,
      'gate_open ': 0.5,
      'wait_seconds_bucket le=1.0': 2,
      'wait_seconds_bucket le=5.0': 3,
      'wait_seconds_bucket le=+Inf': 4,
      'wait_seconds_count ': 4,
      'wait_seconds_sum ': 12,
      'depth_bucket le=0.0': 1,
      'depth_bucket le=1.0': 1,
      'depth_bucket le=2.0': 2,
      'depth_bucket le=4.0': 3,
      'depth_bucket le=+Inf': 3,
      'depth_count ': 3,
      'depth_sum ': 7,
      'size quantile=0.5': 1.5,
      'size_count ': 2,
      'size_sum ': 3,
    });
  });
  it('that say only what came are counted on, and a push sent twice counts once', () => {
    const first = pageOf([sumOf(3, 1000)]);
    const one = after(NOTHING_YET, first);
    const second = pageOf([sumOf(4, 2000)], one);
    expect(second.samples[0]!.value).toBe(7);
    const kept = after(one, second);
    // what was counted on before is left as it was: a push that could not be kept is sent again
    expect(pageOf([sumOf(4, 2000)], one).samples[0]!.value).toBe(7);
    expect(pageOf([sumOf(4, 2000)], kept).samples[0]!.value).toBe(7);
    expect(pageOf([sumOf(1, 3000)], kept).samples[0]!.value).toBe(8);
    expect(pageOf([sumOf(3, 1000, 2)]).counted).toBeNull();
  });
  it('that count on end where one cumulative histogram of all values would', () => {
    fc.assert(
      fc.property(fc.array(values, { minLength: 1, maxLength: 5 }), (pushes) => {
        let state: Accumulated = NOTHING_YET;
        let last: ReturnType<typeof pageOf> | null = null;
        pushes.forEach((own, i) => {
          const { scale: scale_, zeroCount, positive, negative } = counted(own, 3);
          const wired = (buckets: Buckets) => ({ offset: buckets.offset, bucketCounts: buckets.counts.map(String) });
          last = pageOf(
            [
              {
                name: 'depth',
                exponentialHistogram: {
                  aggregationTemporality: 1,
                  dataPoints: [
                    {
                      scale: scale_,
                      count: String(own.length),
                      zeroCount,
                      positive: wired(positive),
                      negative: wired(negative),
                      timeUnixNano: `${i + 1}000000`,
                    },
                  ],
                },
              },
            ],
            state,
          );
          state = after(state, last);
        });
        const all = pushes.flat();
        for (const { name, labels, value: below } of last!.samples) {
          const le = labels.find(([label]) => label === 'le')?.[1];
          if (name === 'depth_bucket')
            expect(below).toBe(all.filter((own) => own <= Number(le?.replace('+Inf', 'Infinity'))).length);
        }
      }),
      { numRuns: 40 },
    );
  });
  it('name their sender by what identifies it, and attach nothing else', () => {
    const [resource] = readMetrics(
      request(
        [sumOf(1, 1)],
        [
          attribute('service.name', 'gate'),
          attribute('service.instance.id', 'a-1'),
          attribute('process.command_line', '/bin/gate --password=x'),
        ],
      ),
    ).resources;
    expect(resource!.name).toBe('gate a-1');
    expect(resource!.labels).toEqual({ service_name: 'gate', service_instance_id: 'a-1' });
  });
  it('cost only the point when one is bad, and say why', () => {
    const bad = {
      name: 'wait',
      histogram: { aggregationTemporality: 2, dataPoints: [{ explicitBounds: [5, 1], bucketCounts: [1, 1, 1] }] },
    };
    const { resources, refused, problem } = readMetrics(request([bad, sumOf(1, 1)]));
    expect(resources[0]!.points).toHaveLength(1);
    expect([refused, problem]).toEqual([1, 'the bounds of a histogram do not ascend']);
    expect(
      readMetrics(request([{ ...sumOf(1, 1), sum: { ...sumOf(1, 1).sum, aggregationTemporality: 0 } }])).refused,
    ).toBe(1);
  });
  it('survive anything', () => {
    fc.assert(
      fc.property(fc.anything(), fc.anything(), (foreign, inner) => {
        readMetrics(foreign);
        const { resources } = readMetrics(request([{ name: 'x', gauge: { dataPoints: [inner] } }, inner]));
        for (const { points } of resources) pushedPage(points, NOTHING_YET);
      }),
    );
  });
});

describe('what is counted on', () => {
  it('is bounded, whatever labels a sender makes up', () => {
    const point = (side: string) => ({ asInt: '1', timeUnixNano: '1000000000', attributes: [attribute('side', side)] });
    const pushed = (from: number, time: number) =>
      readMetrics(
        request([
          {
            name: 'gate.lifts',
            sum: {
              aggregationTemporality: 1,
              isMonotonic: true,
              dataPoints: Array.from({ length: 15_000 }, (_, i) => ({
                ...point(`${from + i}`),
                timeUnixNano: `${time}000000`,
              })),
            },
          },
        ]),
      ).resources[0]!.points;
    const first = pushedPage(pushed(0, 1000), NOTHING_YET);
    expect(first.refused).toBe(0);
    const one = after(NOTHING_YET, first);
    const second = pushedPage(pushed(15_000, 2000), one);
    const two = after(one, second);
    expect(two.sums.size).toBe(20_000);
    // of what was there before nothing is handed on
    expect(second.counted?.sums.size).toBe(5_000);
    expect(second).toMatchObject({ refused: 10_000, problem: expect.stringMatching(/only what came since/) });
    // what is counted on already goes on
    const third = pushedPage(pushed(0, 3000), two);
    expect(third.refused).toBe(0);
    expect([...after(two, third).sums.values()][0]).toBe(2);
  });
});
