import { act, fireEvent, screen } from '@testing-library/react';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers, sessionAs } from '../../../state/testServer.tsx';
import type { MeasureLine } from '../measuresModel.ts';
import { BandsPicture } from './BandsPicture.tsx';

afterEach(cleanUp);
const HOUR = 3_600_000;
const line: MeasureLine = {
  labels: {},
  name: null,
  unit: 's',
  points: [
    [0, 0.2],
    [HOUR, 0.4],
  ],
};
const example = (at: number, value: number, labels: Record<string, string> = {}) => ({ at, value, labels });

describe('examples on bands', () => {
  const draw = () => {
    serveAnswers({ 'GET /api/session': sessionAs('member') });
    drawAt(
      '/measures',
      <BandsPicture
        drawn={[{ key: 'all', line, caption: 'all', ink: null }]}
        buckets={false}
        examples={[
          example(HOUR, 0.4),
          example(0, 0.1, { trace_id: 'f00d' }),
          example(HOUR / 2, 0.3, { trace_id: 'cafe' }),
        ]}
        words={(value) => `${value} s`}
      />,
    );
    return screen.getAllByRole('button');
  };
  it('are walked through in the order of time, and the one that is looked at says which trace it led to', () => {
    const ticks = draw();
    expect(ticks.map((tick) => tick.getAttribute('aria-label'))).toEqual([
      expect.stringMatching(/^0.1 s at .*, trace f00d$/),
      expect.stringMatching(/^0.3 s at .*, trace cafe$/),
      expect.stringMatching(/^0.4 s at .*, without a trace$/),
    ]);
    // one stop of the tab key for all of them
    expect(ticks.filter(({ tabIndex }) => tabIndex === 0)).toEqual([ticks[0]]);
    act(() => ticks[0]!.focus());
    expect(screen.getByText(/trace f00d$/)).toBeTruthy();
    fireEvent.keyDown(ticks[0]!, { key: 'ArrowRight' });
    expect(document.activeElement).toBe(ticks[1]);
    expect(screen.queryByText(/trace f00d$/)).toBeNull();
    expect(screen.getByText(/trace cafe$/)).toBeTruthy();
    fireEvent.keyDown(ticks[1]!, { key: 'ArrowLeft' });
    fireEvent.keyDown(ticks[0]!, { key: 'ArrowLeft' });
    expect(document.activeElement).toBe(ticks[0]);
    act(() => ticks[0]!.blur());
    expect(screen.queryByText(/trace f00d$/)).toBeNull();
  });
  it('says the same where a pointer is', () => {
    const ticks = draw();
    fireEvent.pointerEnter(ticks[2]!);
    expect(screen.getByText(/^0.4 s at .*, without a trace$/)).toBeTruthy();
    fireEvent.pointerLeave(ticks[2]!);
    expect(screen.queryByText(/without a trace/)).toBeNull();
  });
});
