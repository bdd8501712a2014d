import { LiveMessage } from '@zetopsis/contract';
import { useEffect } from 'react';
import { api, TAGS } from './api.ts';
import { newsCame, streamLost, streamOpened } from './liveSlice.ts';
import { NewsPace } from './newsPace.ts';
import { useStoreDispatch } from './store.ts';

/** Keeps the stream of news open and marks as old what it tells of; a page that nobody sees asks when it is seen again. */
export function useLiveNews(): void {
  const dispatch = useStoreDispatch();
  useEffect(() => {
    let source: EventSource;
    const pace = new NewsPace();
    let opened = false;
    let scrolledAt = 0;
    const onScroll = () => {
      scrolledAt = Date.now();
    };
    let retry: ReturnType<typeof setTimeout> | undefined;
    let later: ReturnType<typeof setTimeout> | undefined;
    const ask = () => {
      clearTimeout(later);
      if (document.hidden) return;
      const now = Date.now();
      const due = pace.due(now, scrolledAt);
      if (due.length > 0) dispatch(api.util.invalidateTags(due));
      const next = pace.next(scrolledAt);
      if (next !== null) later = setTimeout(ask, Math.max(100, next - now));
    };
    document.addEventListener('scroll', onScroll, { capture: true, passive: true });
    document.addEventListener('visibilitychange', ask);
    const open = () => {
      let broken = false;
      source = new EventSource(new URL('api/live', document.baseURI).pathname);
      source.onopen = () => {
        dispatch(streamOpened());
        pace.askedAll();
        if (opened) dispatch(api.util.invalidateTags([...TAGS])); // something may have been missed
        opened = true;
      };
      source.onmessage = ({ data }: MessageEvent<string>) => {
        const news = LiveMessage.safeParse(JSON.parse(data));
        if (!news.success) return;
        const now = Date.now();
        dispatch(newsCame(news.data.at - now));
        pace.came(news.data.topics, now);
        ask();
      };
      source.onerror = () => {
        if (broken) return;
        broken = true;
        source.close();
        dispatch(streamLost(Date.now()));
        dispatch(api.util.invalidateTags(['session']));
        retry = setTimeout(open, 2000);
      };
    };
    open();
    return () => {
      clearTimeout(retry);
      clearTimeout(later);
      document.removeEventListener('scroll', onScroll, { capture: true });
      document.removeEventListener('visibilitychange', ask);
      source.close();
    };
  }, [dispatch]);
}
