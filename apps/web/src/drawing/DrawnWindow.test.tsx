import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { DrawnWindow } from './DrawnWindow.tsx';

afterEach(cleanup);
const HOUR = 3_600_000;
function draw() {
  const drawn = vi.fn();
  const at = (end: number, words: string) => (
    <DrawnWindow start={end - HOUR} end={end} margins={[10, 10]} drawn={drawn}>
      <p>{words}</p>
    </DrawnWindow>
  );
  const { rerender, unmount } = render(at(HOUR, 'a chart'));
  const box = screen.getByTitle('draw over it to set the window');
  vi.spyOn(box, 'getBoundingClientRect').mockReturnValue(new DOMRect(100, 0, 220, 80)); // an axis of 200 px from 110
  return { drawn, unmount, anew: (words: string) => rerender(at(HOUR, words)) };
}
const pointer = (x: number, more: object = {}) => ({
  clientX: x,
  buttons: 1,
  pointerId: 1,
  isPrimary: true,
  button: 0,
  ...more,
});

it('the window is what was drawn, either way round, though the chart is drawn anew and the pointer has left it', () => {
  const { drawn, anew } = draw();
  fireEvent.pointerDown(screen.getByText('a chart'), pointer(260));
  anew('another chart');
  fireEvent.pointerMove(document.body, pointer(200));
  anew('a third');
  fireEvent.pointerUp(document.body, pointer(160, { buttons: 0 }));
  expect(drawn.mock.calls).toEqual([[{ from: HOUR / 4, to: (HOUR * 3) / 4 }]]);
  fireEvent.pointerUp(document.body, pointer(120, { buttons: 0 }));
  expect(drawn).toHaveBeenCalledTimes(1);
});

it('a click, a stretch under a minute, another pointer, a button that was let go elsewhere and a chart that went draw nothing', () => {
  const { drawn, unmount } = draw();
  const down = (more: object = {}) => fireEvent.pointerDown(screen.getByText('a chart'), pointer(160, more));
  const up = (x: number, more: object = {}) => fireEvent.pointerUp(document.body, pointer(x, { buttons: 0, ...more }));
  down();
  up(162);
  down({ button: 2 });
  up(260);
  down();
  up(260, { pointerId: 2 });
  fireEvent.pointerMove(document.body, pointer(250, { buttons: 0 }));
  up(260);
  down();
  fireEvent.pointerCancel(document.body, pointer(200));
  up(260);
  down();
  unmount();
  up(260);
  expect(drawn).not.toHaveBeenCalled();
});

it('ends of the axis are as far as one draws', () => {
  const { drawn } = draw();
  fireEvent.pointerDown(screen.getByText('a chart'), pointer(120));
  fireEvent.pointerUp(document.body, pointer(4000, { buttons: 0 }));
  expect(drawn.mock.calls).toEqual([[{ from: HOUR / 20, to: HOUR }]]);
});
