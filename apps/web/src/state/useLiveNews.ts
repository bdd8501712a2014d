import { LiveMessage, type LiveTopic } from '@zetopsis/contract';
import { useEffect } from 'react';
import { api, TAGS } from './api.ts';
import { newsCame, streamLost, streamOpened } from './liveSlice.ts';
import { useStoreDispatch } from './store.ts';

/** Readings arrive all the time: what shows them asks again at most this often. The rest follows at once. */
const SAMPLES_EVERY = 5000;

/** Keeps the stream of news open and marks as old what it tells of. */
export function useLiveNews(): void {
  const dispatch = useStoreDispatch();
  useEffect(() => {
    let source: EventSource;
    let samplesAt = 0;
    let retry: ReturnType<typeof setTimeout> | undefined;
    const open = () => {
      let broken = false;
      source = new EventSource(new URL('api/live', document.baseURI).pathname);
      source.onopen = () => {
        dispatch(streamOpened());
        if (samplesAt > 0) dispatch(api.util.invalidateTags([...TAGS])); // something may have been missed
        samplesAt = Date.now();
      };
      source.onmessage = ({ data }: MessageEvent<string>) => {
        const news = LiveMessage.safeParse(JSON.parse(data));
        if (!news.success) return;
        const now = Date.now();
        dispatch(newsCame(news.data.at - now));
        const due = news.data.topics.filter(
          (topic: LiveTopic) => topic !== 'samples' || now - samplesAt >= SAMPLES_EVERY,
        );
        if (due.includes('samples')) samplesAt = now;
        if (due.length > 0) dispatch(api.util.invalidateTags(due));
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
      source.close();
    };
  }, [dispatch]);
}
