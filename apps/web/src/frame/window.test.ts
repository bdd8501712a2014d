import type { TapeAnswer } from '@zetopsis/contract';
import { DAY, HOUR, MINUTE } from '@zetopsis/core/units';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { mapAround } from './mapView.ts';
import {
  earlierLike,
  groupMarks,
  leading,
  loadPath,
  neverReadUntil,
  ticksOf,
  timeAt,
  timeOf,
  xOf,
} from './tapeModel.ts';
import { readView, writeView } from './useView.ts';
import {
  aroundMoment,
  readShift,
  readWindow,
  resizeWindow,
  shiftInWords,
  stepWindow,
  swapWindows,
  tapeSpan,
  windowInWords,
  writeShift,
  writeWindow,
} from './windowModel.ts';

const NOW = 1_795_572_000_000;
const search = (record: object) =>
  new URLSearchParams(Object.entries(record).filter(([, value]) => value !== undefined));

describe('the window', () => {
  it('is read back from the address as it was written', () => {
    const moving = fc
      .constantFrom(15 * MINUTE, HOUR, 3 * HOUR, DAY, 30 * DAY, 17 * MINUTE)
      .map((length) => ({ length }));
    const still = fc
      .tuple(fc.integer({ min: 1, max: NOW }), fc.integer({ min: MINUTE, max: 89 * DAY }))
      .map(([from, length]) => ({ from, to: from + length }));
    fc.assert(
      fc.property(fc.oneof(moving, still), (window) => {
        expect(readWindow(search(writeWindow(window)))).toEqual(window);
      }),
    );
  });
  it('is the default where the address is nonsense', () => {
    for (const bad of [
      'window=5y',
      'window=0m',
      'from=5&to=1',
      'from=x&to=y',
      'window=9999d',
      'from=1&to=99999999999999',
    ])
      expect(readWindow(new URLSearchParams(bad))).toEqual({ length: 3 * HOUR });
  });
  it('steps by its own length, and forth beyond now is now', () => {
    const back = stepWindow({ length: HOUR }, -1, NOW);
    expect(back).toEqual({ from: NOW - 2 * HOUR, to: NOW - HOUR });
    expect(stepWindow(back, 1, NOW)).toEqual({ length: HOUR });
    expect(stepWindow(back, -1, NOW)).toEqual({ from: NOW - 3 * HOUR, to: NOW - 2 * HOUR });
  });
  it('keeps its end when its length changes', () => {
    expect(resizeWindow({ from: 0, to: 5 * HOUR }, HOUR)).toEqual({ from: 4 * HOUR, to: 5 * HOUR });
    expect(resizeWindow({ length: HOUR }, DAY)).toEqual({ length: DAY });
  });
  it('lies inside the tape’s span', () => {
    fc.assert(
      fc.property(fc.integer({ min: MINUTE, max: 30 * DAY }), fc.integer({ min: 0, max: 60 * DAY }), (length, ago) => {
        const to = NOW - ago;
        const span = tapeSpan({ from: to - length, to }, NOW);
        const [from, end] = 'length' in span ? [NOW - span.length, NOW] : [span.from, span.to];
        expect(from).toBeLessThanOrEqual(to - length);
        expect(end).toBeGreaterThanOrEqual(to);
      }),
    );
  });
  it('is said in words', () => {
    expect(windowInWords({ length: 3 * HOUR }, NOW)).toMatch(/ – now, 3 h$/);
  });
});

describe('the window compared with', () => {
  const second = fc.integer({ min: 1, max: 80 * 86_400 }).map((seconds) => seconds * 1000);
  it('is read back from the address as it was written, nonsense is none', () => {
    fc.assert(
      fc.property(second, fc.boolean(), (length, later) => {
        const shift = later ? -length : length;
        expect(readShift(writeShift(shift))).toBe(shift);
      }),
    );
    for (const bad of [null, '', '0d', '5y', 'yesterday', '999999999s', '91d', '1.5h'])
      expect(readShift(bad)).toBeNull();
  });
  it('is said in words', () => {
    expect(shiftInWords(3 * HOUR, 3 * HOUR)).toBe('the window before');
    expect(shiftInWords(DAY, HOUR)).toBe('a day earlier');
    expect(shiftInWords(-42 * MINUTE, HOUR)).toBe('42 min later');
  });
  it('changes places with the window, and back', () => {
    const first = { from: NOW - 5 * HOUR, to: NOW - 4 * HOUR };
    const swapped = swapWindows(first, DAY, NOW);
    expect(swapped).toEqual({ window: { from: first.from - DAY, to: first.to - DAY }, shift: -DAY });
    expect(swapWindows(swapped.window, swapped.shift, NOW)).toEqual({ window: first, shift: DAY });
    // one that reaches to now goes on with the clock when it comes back
    const live = swapWindows({ length: HOUR }, DAY, NOW);
    expect(swapWindows(live.window, live.shift, NOW).window).toEqual({ length: HOUR });
  });
  it('aligned at a moment: as much after it as there is, against as much before', () => {
    expect(aroundMoment(NOW - 5 * HOUR, HOUR, NOW)).toEqual({
      window: { from: NOW - 5 * HOUR, to: NOW - 4 * HOUR },
      shift: HOUR,
    });
    expect(aroundMoment(NOW - 20 * MINUTE, HOUR, NOW)).toEqual({
      window: { from: NOW - 20 * MINUTE, to: NOW },
      shift: 20 * MINUTE,
    });
  });
  it('lies on the tape, too, unless it would make the window a sliver', () => {
    const spanned = (shift: number) => {
      const span = tapeSpan({ from: NOW - 4 * HOUR, to: NOW - 3 * HOUR }, NOW, shift);
      return 'length' in span ? [NOW - span.length, NOW] : [span.from, span.to];
    };
    for (const shift of [HOUR, 3 * HOUR, 9 * HOUR, -2 * HOUR]) {
      const [from, to] = spanned(shift) as [number, number];
      expect(from).toBeLessThanOrEqual(NOW - 4 * HOUR - Math.max(0, shift));
      expect(to).toBeGreaterThanOrEqual(NOW - 3 * HOUR - Math.min(0, shift));
    }
    const [from] = spanned(7 * DAY) as [number, number];
    expect(from).toBeGreaterThan(NOW - DAY);
  });
});

it('scope, window and choice survive the address, names with odd letters included', () => {
  const part = fc
    .string({ minLength: 1, maxLength: 12 })
    .filter((text) => text.trim() !== '' && !/[\uD800-\uDFFF]/.test(text));
  const plain = part.filter((text) => !text.includes(':'));
  const path = fc.oneof(
    fc.constant([]),
    fc.tuple(plain),
    fc.tuple(plain, plain),
    fc
      .tuple(
        plain,
        plain,
        part.map((name) => `deployment:${name}`),
        part,
        part,
      )
      .map((parts): string[] => parts),
  );
  fc.assert(
    fc.property(
      path,
      fc.boolean(),
      fc.constantFrom('cpu' as const, 'memory' as const, 'received' as const, 'memoryEnds' as const),
      fc.constantFrom(null, HOUR, -90 * 60_000, 86_461_000),
      fc.constantFrom('namespace' as const, 'node' as const, 'team' as const),
      fc.constantFrom(null, 'mine' as const, 'all' as const),
      (path, sheet, resource, shift, by, whose) => {
        const view = {
          path,
          sheet,
          resource,
          shift,
          by,
          whose,
          clusters: sheet ? 'region:north west' : null,
          mirror: sheet && shift !== null,
          window: { length: HOUR },
          show: sheet ? ('columns' as const) : ('table' as const),
          table: {
            level: 'pod' as const,
            columns: sheet ? [] : ['name', 'cpuTight'],
            sort: 'memory',
            backwards: shift === null,
            find: sheet ? '' : 'a & b=ü',
            label: sheet ? 'app=tide' : '',
            owner: by === 'node' ? 'Yard cranes' : '',
            state: sheet ? ('found' as const) : ('all' as const),
          },
          beside: path.length === 0 ? [] : [path, ['landward']],
          aside: path.length === 0 ? [] : [path],
          measure: sheet ? 'a = read x\n  top 3\nshow a / 2 # ü&=?' : '',
          saved: sheet ? 'how-full' : '',
          drawn: sheet ? 'heat' : '',
          every: sheet ? 300_000 : null,
          map: {
            link: sheet ? 'seaward/tides/deployment:a → /"ü&/host:b' : '',
            away: sheet ? 1 : 0,
            lanes: sheet ? ('namespace' as const) : ('team' as const),
            folded: sheet ? [] : ['seaward / tides', 'nobody’s'],
            opened: sheet ? ['seaward/tides/deployment:tide-model', 'a/b/c:d'] : [],
            ofBoxes: sheet ? ('memory' as const) : ('measure:held' as const),
            ofLinks: sheet ? ('failed' as const) : ('nothing' as const),
          },
        };
        expect(readView(writeView(view))).toEqual(view);
      },
    ),
  );
  // as far as something can stand there
  expect(readView('?in=seaward/tides/tide-model/x').path).toEqual(['seaward', 'tides']);
  expect(
    writeView({
      path: ['seaward', 'tides', 'deployment:tide-model'],
      window: { length: HOUR },
      resource: 'cpu',
      sheet: true,
      shift: null,
      by: 'namespace',
      whose: null,
      clusters: null,
      mirror: false,
      show: 'columns',
      table: {
        level: 'workload',
        columns: [],
        sort: 'cpu',
        backwards: false,
        find: '',
        label: '',
        owner: '',
        state: 'all',
      },
      beside: [],
      aside: [],
      measure: '',
      saved: '',
      drawn: '',
      map: mapAround(''),
      every: null,
    }),
  ).toBe('?in=seaward/tides/deployment:tide-model&window=1h');
});

describe('the tape', () => {
  const scale = { from: NOW - 12 * HOUR, to: NOW, width: 1000 };
  const mark = (
    minutesAgo: number,
    kind: 'rollout' | 'raised' | 'restart',
    severity: 'critical' | 'warning' | null = null,
  ) => ({ at: NOW - minutesAgo * MINUTE, kind, severity, title: kind, path: ['c'] });
  it('place and time are each other’s inverse', () => {
    expect(timeAt(scale, xOf(scale, NOW - HOUR))).toBeCloseTo(NOW - HOUR, -1);
    expect(timeAt(scale, 99_999)).toBe(NOW);
    expect(timeOf(scale, 250)).toBe(3 * HOUR);
  });
  it('ticks are round and not crowded at any span', () => {
    for (const length of [HOUR, 3 * HOUR, DAY, 7 * DAY, 90 * DAY]) {
      const ticks = ticksOf({ from: NOW - length, to: NOW, width: 1000 });
      expect(ticks.length).toBeGreaterThan(2);
      for (let i = 1; i < ticks.length; i++) expect(ticks[i]!.x - ticks[i - 1]!.x).toBeGreaterThan(60);
    }
  });
  it('near marks stand as one, led by the gravest', () => {
    const groups = groupMarks(
      [
        mark(300, 'rollout'),
        mark(299, 'raised', 'warning'),
        mark(298, 'raised', 'critical'),
        mark(10, 'restart'),
        mark(99_999, 'rollout'),
      ],
      scale,
    );
    expect(groups.map(({ marks }) => marks.length)).toEqual([3, 1]);
    expect(leading(groups[0]!)).toMatchObject({ kind: 'raised', severity: 'critical' });
  });
  it('stand beside each other, none over another and none past the edges, however many there are', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 719 }), { maxLength: 300 }), (minutes) => {
        const groups = groupMarks(
          minutes.map((ago) => mark(ago, 'restart')),
          scale,
        );
        expect(groups.reduce((sum, { marks }) => sum + marks.length, 0)).toBe(minutes.length);
        for (const [i, { x, width }] of groups.entries()) {
          expect(x - width / 2).toBeGreaterThanOrEqual(0);
          expect(x + width / 2).toBeLessThanOrEqual(scale.width);
          const next = groups[i + 1];
          if (next) expect(next.x - x).toBeGreaterThanOrEqual((next.width + width) / 2);
        }
      }),
    );
  });
  it('finds earlier moments like one, to align at: same kind, same object', () => {
    const marks = [
      mark(300, 'rollout'),
      mark(100, 'restart'),
      mark(60, 'rollout'),
      { ...mark(50, 'rollout'), path: ['d'] },
    ];
    const newest = mark(10, 'rollout');
    expect(earlierLike([...marks, newest], newest).map(({ at }) => at)).toEqual([marks[2]!.at, marks[0]!.at]);
    expect(earlierLike(marks, marks[0]!)).toEqual([]);
  });
  it('a hole in the data is a hole in the line, and the time before anything was read is known', () => {
    const tape: TapeAnswer = {
      span: { from: scale.from, to: NOW, live: true },
      grid: { start: scale.from, step: 3 * HOUR, count: 5 },
      load: [null, 1, 2, null, 1],
      loadOf: 'c',
      marks: [],
      stretches: [],
      hushes: [],
      gaps: [],
      newestAt: NOW,
    };
    expect(loadPath({ tapeAnswer: tape, scale, top: 0, bottom: 50 }).match(/M/g)).toHaveLength(2);
    expect(neverReadUntil(tape)).toBe(scale.from + 3 * HOUR);
    expect(neverReadUntil({ ...tape, load: [1] })).toBeNull();
  });
});
