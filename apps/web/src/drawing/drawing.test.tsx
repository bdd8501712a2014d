import { cleanup, render, screen } from '@testing-library/react';
import type { Figures } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { differInHash, partName, pathWords, shortPodName } from './names.ts';
import { FailureNote } from './StateNote.tsx';
import { Strip } from './Strip.tsx';
import { drawStrip, stripInWords } from './stripModel.ts';

afterEach(cleanup);
const figures = (part: Partial<Figures>): Figures => ({
  use: 1,
  peak: 1.2,
  request: 0.5,
  limit: 2,
  limitIs: 'limit',
  unlimited: null,
  tightness: 0.6,
  heading: null,
  ...part,
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
  it('breaks out over its limit, stays open without one', () => {
    expect(drawStrip(figures({ use: 2.5 }))).toMatchObject({ over: true, fill: 4 });
    const open = drawStrip(figures({ limit: null, limitIs: 'none', use: 4 }));
    expect(open).toMatchObject({ open: true, over: false, fill: 1 });
    expect(open.use).toBeLessThan(1);
  });
  it('says all of it in words with units, and why there is no limit', () => {
    expect(stripInWords('cpu', figures({ heading: 1.8 }))).toBe(
      'CPU: 1.00 core in use, 50 % of its limit of 2.00 cores; 95 % of the window below 1.20 cores; 0.50 cores asked for; heading for 1.80 cores one window later',
    );
    expect(stripInWords('memory', figures({ limit: null, limitIs: 'none', unlimited: 'door' }))).toContain(
      'no limit, because door has none',
    );
    expect(stripInWords('cpu', figures({ use: null, peak: null }))).toBe('CPU: nothing was read; 0.50 cores asked for');
  });
  it('has these words as its accessible name, and its shape in percent of its width', () => {
    render(<Strip resource="cpu" figures={figures({})} cuts={[1, 3]} />);
    const strip = screen.getByRole('img', { name: /^CPU: 1.00 core in use, 50 % of its limit/ });
    expect(strip.querySelector('rect[fill="var(--fill-2)"]')?.getAttribute('width')).toBe('50.00%');
    expect(strip.querySelector('line[stroke="var(--sheet)"]')?.getAttribute('x1')).toBe('12.50%');
  });
});

it('pods are called by what differs', () => {
  expect(partName('deployment:booking-front', 2)).toBe('booking-front');
  expect(pathWords(['seaward', 'ticketing', 'deployment:booking-front'], 1)).toBe('ticketing › booking-front');
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
