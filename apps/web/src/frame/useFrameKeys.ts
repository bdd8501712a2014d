import { useEffect } from 'react';
import { PLACES } from './places.ts';
import { useView } from './useView.ts';
import { lengthOf, stepWindow, swapWindows } from './windowModel.ts';

/** True where a key belongs to what one is typing in, or to an open layer. */
export function typing(event: KeyboardEvent): boolean {
  if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return true;
  const target = event.target as HTMLElement | null; // key events come from elements
  return (
    target?.closest(
      'input:not([type="checkbox"]), textarea, select, [contenteditable], [role="dialog"], [role="menu"]',
    ) != null
  );
}

/** Keys that work in every place: 1 … 9, [ ] 0 and \ for the windows, / to go to anything, ? for all of them. */
export function useFrameKeys(open: (layer: 'keys' | 'find') => void): void {
  const { view, change, setWindow } = useView();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        open('find');
        return;
      }
      if (typing(event)) return;
      const place = PLACES[Number(event.key) - 1];
      const now = Date.now();
      if (place) void change({}, { place: place.path });
      else if (event.key === '[') void setWindow(stepWindow(view.window, -1, now));
      else if (event.key === ']') void setWindow(stepWindow(view.window, 1, now));
      else if (event.key === '0') void setWindow({ length: lengthOf(view.window) });
      else if (event.key === '\\' && view.shift !== null) void change(swapWindows(view.window, view.shift, now));
      else if (event.key === '/') open('find');
      else if (event.key === '?') open('keys');
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [view, change, setWindow, open]);
}
