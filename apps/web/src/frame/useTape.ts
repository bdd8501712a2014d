import { useTapeQuery } from '../state/usageApi.ts';
import { useNow } from './useNow.ts';
import { useView, viewed } from './useView.ts';
import { tapeSpan } from './windowModel.ts';

/** What happened around the window, asked for once whoever draws it. */
export function useTape() {
  const { view } = useView();
  const now = useNow();
  const span = tapeSpan(view.window, now, view.shift);
  const { data, isError } = useTapeQuery({ ...viewed(view), window: span });
  return { data, isError, span };
}
