import { cleanup, render, screen } from '@testing-library/react';
import type { Figures } from '@zetopsis/contract';
import fc from 'fast-check';
import { afterEach, describe, expect, it } from 'vitest';
import { MirrorStrip } from './MirrorStrip.tsx';
import {
  differInHash,
  lastName,
  nameParts,
  namesIn,
  overNode,
  pathWords,
  readableFront,
  shortPodName,
} from './names.ts';
import { FailureNote } from './StateNote.tsx';
import { Strip } from './Strip.tsx';
import { COUNTED, countedOf, cutsAt, drawStrip, openLengthOf, stripInWords } from './stripModel.ts';

afterEach(cleanup);
const figures = (part: Partial<Figures>): Figures => ({
  use: 1,
  mean: 1.1,
  peak: 1.2,
  request: 0.5,
  limit: 2,
  limitIs: 'limit',
  unlimited: null,
  tightness: 0.6,
  heading: null,
  ...part,
});

describe('a name that is cut in its middle', () => {
  it('is whole where there is room, and keeps what tells it from its neighbours', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 90 }), (name) => {
        const [front, end] = nameParts(name);
        expect(front + end).toBe(name);
        expect(end.length).toBeLessThanOrEqual(11);
        if (name.length > 10) expect(front.length).toBeGreaterThan(0);
      }),
    );
    expect(nameParts('booking-front-7d9c5b-x2k4p')).toEqual(['booking-front-7d9c5b', '-x2k4p']);
    expect(nameParts('quay-reservations-01')[1]).not.toBe(nameParts('quay-reservations-02')[1]);
    expect(nameParts('a'.repeat(30))).toEqual(['a'.repeat(24), 'a'.repeat(6)]);
    expect(nameParts('tides')).toEqual(['tides', '']);
  });
});

describe('the strip', () => {
  it('stands at shares of its limit', () => {
    expect(drawStrip(figures({}))).toMatchObject({
      use: 0.5,
      peak: 0.6,
      request: 0.25,
      open: false,
      over: false,
      fill: 2,
    });
  });
  it('is as dark as it was tight, by which it is sorted, however little is in use now', () => {
    const shades = [0.3, 0.5, 0.7, 0.9].map((tightness) => drawStrip(figures({ use: 0.1, tightness })).fill);
    expect(shades).toEqual([1, 2, 3, 4]);
  });
  it('breaks out over its limit, stays open without one', () => {
    expect(drawStrip(figures({ use: 2.5 }))).toMatchObject({ over: true, fill: 4 });
    const open = drawStrip(figures({ limit: null, limitIs: 'none', use: 4 }));
    expect(open).toMatchObject({ open: true, over: false, fill: 1 });
    expect(open.use).toBeLessThan(1);
  });
  it('says all of it in words with units, and why there is no limit', () => {
    expect(stripInWords(COUNTED.cpu, figures({ heading: 1.8 }))).toBe(
      'CPU: 1.00 core in use, 50 % of its limit of 2.00 cores; 95 % of the window below 1.20 cores; 0.50 cores asked for; heading for 1.80 cores one window later',
    );
    expect(stripInWords(COUNTED.memory, figures({ limit: null, limitIs: 'none', unlimited: 'door' }))).toContain(
      'no limit, because door has none',
    );
    expect(stripInWords(COUNTED.cpu, figures({ use: null, peak: null }))).toBe(
      'CPU: nothing was read; 0.50 cores asked for',
    );
  });
  it('shows and says the window compared with', () => {
    const against = { use: 0.5, mean: 0.4, peak: 0.6 };
    expect(drawStrip(figures({}), against).against).toBe(0.25);
    // without a limit the other window needs room, too
    expect(drawStrip(figures({ limit: null, use: 1 }), { ...against, use: 8 }).against).toBeLessThan(1);
    expect(stripInWords(COUNTED.cpu, figures({}), against)).toMatch(
      /; against 0.50 cores in use then, 0.40 cores on average$/,
    );
    const { container } = render(<Strip of={COUNTED.cpu} figures={figures({})} against={against} />);
    const double = [...container.querySelectorAll('line[stroke="var(--ink)"]')];
    expect(double.map((line) => line.getAttribute('x2'))).toEqual(['25.00%', '25.00%']);
  });
  it('measures volumes and quotas, too, each in its unit', () => {
    expect(
      stripInWords(COUNTED.volume, figures({ use: 2 ** 30, limit: 2 ** 31, limitIs: 'size', request: null })),
    ).toMatch(/^volume: 1.00 GiB in use, 50 % of its size of 2.00 GiB/);
    expect(countedOf('requests.cpu').amount(1.5)).toBe('1.50 cores');
    expect(countedOf('limits.memory').amount(2 ** 30)).toBe('1.00 GiB');
    expect(countedOf('requests.storage').amount(2 ** 30)).toBe('1.00 GiB');
    expect(countedOf('pods').amount(12)).toBe('12');
    expect(countedOf('pods').amount(null)).toBe('not read');
  });
  it('open, has one scale with the others of its list, so that they can be compared', () => {
    const open = (use: number) => figures({ use, peak: null, request: null, limit: null, limitIs: 'none' });
    const length = openLengthOf([
      { figures: open(2), against: null },
      { figures: open(8), against: null },
      { figures: figures({ use: 900 }), against: null },
    ]);
    const shares = [2, 8].map((use) => drawStrip(open(use), null, length).use!);
    expect(shares[1]! / shares[0]!).toBeCloseTo(4, 9);
    expect(shares[1]).toBeLessThan(1);
    expect(drawStrip(figures({}), null, length)).toEqual(drawStrip(figures({})));
  });
  it('is cut into its children’s shares, as far as they can be told apart', () => {
    const cuts = cutsAt([1, 2, 1], 0.5);
    expect(cuts).toEqual([0.125, 0.375]);
    expect(cutsAt([4], 0.5)).toEqual([]);
    expect(cutsAt(undefined, 0.5)).toEqual([]);
    expect(cutsAt([0, 0], 0.5)).toEqual([]);
    const many = cutsAt(Array(5000).fill(1), 2);
    expect(many.length).toBeGreaterThan(50);
    expect(many.length).toBeLessThan(130);
    expect(many.at(-1)).toBeLessThanOrEqual(1);
  });
  it('tells what nothing bounds by its amount alone', () => {
    const own = figures({ use: 3, peak: null, limit: null, limitIs: 'none' });
    expect(stripInWords(COUNTED.restarts, own)).toBe('restarts in the window: 3');
    expect(stripInWords(COUNTED.throttled, { ...own, use: 0.3 }, { use: 0.1, mean: 0.1, peak: null })).toBe(
      'throttled: 30 %; against 10 % then, 10 % on average',
    );
    expect(stripInWords(COUNTED.memoryEnds, { ...own, use: null })).toMatch(/not known/);
  });
  it('mirrored, both windows stand on one axis at one scale', () => {
    const { container } = render(<MirrorStrip of={COUNTED.cpu} window={1} against={3} scale={4} />);
    const [above, below] = [...container.querySelectorAll('rect')];
    expect(above?.getAttribute('width')).toBe('25.00%');
    expect(below?.getAttribute('width')).toBe('75.00%');
    expect(Number(below?.getAttribute('y'))).toBeGreaterThan(Number(above?.getAttribute('y')));
    expect(container.textContent).toContain('1.00 core on average in the window, 3.00 cores in the one compared with');
  });
  it('has these words as its accessible name, and its shape in percent of its width', () => {
    render(<Strip of={COUNTED.cpu} figures={figures({})} cuts={[1, 3]} />);
    const strip = screen.getByRole('img', { name: /^CPU: 1.00 core in use, 50 % of its limit/ });
    expect(strip.querySelector('rect[fill="var(--fill-2)"]')?.getAttribute('width')).toBe('50.00%');
    expect(strip.querySelector('line[stroke="var(--sheet)"]')?.getAttribute('x1')).toBe('12.50%');
  });
});

it('pods are called by what differs', () => {
  expect(lastName(['seaward', 'ticketing', 'deployment:booking-front'])).toBe('booking-front');
  expect(namesIn(['seaward', 'planet:x'])).toEqual(['seaward', 'planet:x']);
  expect(readableFront(['seaward', 'ticketing', 'nothing', 'x'])).toEqual(['seaward', 'ticketing']);
  expect(readableFront(['team:x'])).toEqual([]);
  expect(pathWords(['seaward', 'ticketing', 'deployment:booking-front'], 1)).toBe('ticketing › booking-front');
  expect(pathWords(['seaward', 'node:seaward-07', 'tides:tide-model-x'])).toBe('seaward › seaward-07 › tide-model-x');
  expect([overNode(['c', 'node:n']), overNode(['c', 'nodes']), overNode([])]).toEqual([true, false, false]);
  expect(shortPodName('booking-front-7c4f9abcd-k2vxz', 'booking-front', false)).toBe('…k2vxz');
  expect(shortPodName('booking-front-7c4f9abcd-k2vxz', 'booking-front', true)).toBe('…abcd-k2vxz');
  expect(shortPodName('crane-telemetry-k2vxz', 'crane-telemetry', true)).toBe('…k2vxz');
  expect(shortPodName('other', 'booking-front', true)).toBe('other');
  expect(differInHash(['a-1-x', 'a-1-y'])).toBe(false);
  expect(differInHash(['a-1-x', 'a-2-y'])).toBe(true);
});

it('a failure says what, and offers another try only where that helps', () => {
  const { rerender } = render(
    <FailureNote error={{ kind: 'offline', text: 'away', fields: [] }} retry={() => undefined} />,
  );
  expect(screen.getByRole('alert').textContent).toContain('away');
  expect(screen.getByRole('button', { name: 'try again' })).toBeTruthy();
  rerender(<FailureNote error={{ kind: 'notAllowed', text: 'ask somebody', fields: [] }} retry={() => undefined} />);
  expect(screen.queryByRole('button')).toBeNull();
});
