import fc from 'fast-check';
import { expect, it } from 'vitest';
import { DEFAULT_PAGE_LIMITS, readPage } from '../exposition/index.ts';
import { toTheEnd } from '../steps/index.ts';
import { MINUTE } from '../units/index.ts';
import type { LinkEnd } from './link.ts';
import { type CountedPast, PastWires } from './past.ts';

const START = 1_790_000_100_000;
const EVERY = 5 * MINUTE;
const end = (name: string): LinkEnd => ({ cluster: 'landward', namespace: 'quay', workload: `deployment:${name}` });
const counted = (
  from: string,
  to: string,
  points: readonly (readonly [minute: number, value: number])[],
  back = false,
): CountedPast => ({
  from,
  to,
  port: '8080',
  back,
  samples: {
    times: Float64Array.from(points, ([minute]) => START + minute * MINUTE),
    values: Float64Array.from(points, ([, value]) => value),
  },
});
const names: Record<string, string> = { a: 'crane', a2: 'crane', b: 'dues', c: 'papers' };
const holderAt = (address: string) => (names[address] === undefined ? null : end(names[address]));
/** By whom and which way: what had gone by each minute since the start. */
function told(page: string): Map<string, [number, number][]> {
  const { problems } = readPage(new TextEncoder().encode(page), { form: 'openmetrics', limits: DEFAULT_PAGE_LIMITS });
  expect(problems).toEqual([]);
  const all = new Map<string, [number, number][]>();
  for (const line of page.split('\n')) {
    const found =
      /from_workload="deployment:(\w+)".*to_workload="deployment:(\w+)".*direction="(\w+)"\} (\d+) (\d+)$/.exec(line);
    if (!found) continue;
    const key = `${found[1]} ${found[2]} ${found[3]}`;
    all.set(key, [...(all.get(key) ?? []), [(Number(found[5]) * 1000 - START) / MINUTE, Number(found[4])]]);
  }
  return all;
}
const pageOf = (
  past: PastWires,
  all: readonly CountedPast[],
  from: number,
  to: number,
  holder: (address: string, at: number) => LinkEnd | null = holderAt,
) => {
  const stretch = { from: START + from * MINUTE, to: START + to * MINUTE, every: EVERY };
  // one by one, as endpoints are read
  for (const one of all) toTheEnd(past.addBySteps([one], stretch, holder));
  return told(toTheEnd(past.pageBySteps(stretch)));
};

it('what counters grew by is told for each five minutes, pods of a workload together, both ways, over resets', () => {
  const page = pageOf(
    new PastWires(),
    [
      counted('a', 'b', [
        [-2, 100],
        [3, 150],
        [4, 160],
        [9, 5],
      ]),
      counted('a2', 'b', [
        [0, 0],
        [10, 7],
      ]),
      counted(
        'a',
        'b',
        [
          [0, 10],
          [5, 30],
        ],
        true,
      ),
      counted('a', 'a2', [
        [0, 0],
        [5, 1000],
      ]),
      counted('nobody', 'b', [
        [0, 0],
        [5, 1000],
      ]),
    ],
    0,
    10,
  );
  expect([...page]).toEqual([
    [
      'crane dues sent',
      [
        [5, 45],
        [10, 52],
      ],
    ],
    [
      'crane dues received',
      [
        [5, 20],
        [10, 20],
      ],
    ],
  ]);
});

it('goes on from stretch to stretch; an address counts for whoever had it; over a long pause nothing is known', () => {
  const past = new PastWires();
  const all = [
    counted('a', 'c', [
      [0, 0],
      [5, 10],
      [10, 30],
      [15, 60],
      [70, 9000],
      [75, 9010],
    ]),
  ];
  expect([...pageOf(past, all, 0, 10)]).toEqual([
    [
      'crane papers sent',
      [
        [5, 10],
        [10, 30],
      ],
    ],
    [
      'crane papers received',
      [
        [5, 0],
        [10, 0],
      ],
    ],
  ]);
  const handed = (address: string, at: number) =>
    address === 'a' && at > START + 12 * MINUTE ? end('dues') : holderAt(address);
  const later = pageOf(past, all, 10, 20, handed);
  expect(later.get('crane papers sent')).toEqual([
    [15, 30],
    [20, 30],
  ]);
  expect(later.get('dues papers sent')).toEqual([
    [15, 30],
    [20, 30],
  ]);
  expect(pageOf(past, all, 65, 75, handed).get('dues papers sent')).toEqual([
    [70, 30],
    [75, 40],
  ]);
});

it('nothing is a page, too; all that grew within is told, however it is cut into stretches', () => {
  expect(toTheEnd(new PastWires().pageBySteps({ from: START, to: START + EVERY, every: EVERY }))).toBe('# EOF\n');
  const growths = fc.array(fc.nat(1000), { minLength: 12, maxLength: 12 });
  fc.assert(
    fc.property(growths, fc.integer({ min: 1, max: 11 }), (grown, cut) => {
      const sums = grown.map((_, i) => grown.slice(0, i + 1).reduce((sum, by) => sum + by, 0));
      const points = [[0, 0] as const, ...sums.map((sum, i) => [(i + 1) * 5, sum] as const)];
      const past = new PastWires();
      const pages = [
        pageOf(past, [counted('a', 'b', points)], 0, cut * 5),
        pageOf(past, [counted('a', 'b', points)], cut * 5, 60),
      ];
      const all = pages.flatMap((page) => page.get('crane dues sent') ?? []);
      expect(all.map(([minute]) => minute)).toEqual(grown.map((_, i) => (i + 1) * 5));
      expect(all.at(-1)?.[1]).toBe(sums.at(-1));
    }),
  );
});
