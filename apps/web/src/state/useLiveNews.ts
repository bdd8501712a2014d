import { LiveMessage, type LiveTopic } from '@zetopsis/contract';
import { useEffect } from 'react';
import { api, TAGS } from './api.ts';
import { newsCame, streamLost, streamOpened } from './liveSlice.ts';
import { useStoreDispatch } from './store.ts';

/** Readings arrive all the time: what shows them asks again at most this often. The rest follows at once. */
const SAMPLES_EVERY = 5000;
/** While somebody scrolls they wait for so long after the last movement, but not for ever: thousands of rows would falter. */
const AFTER_SCROLLING = 400;
const AT_LATEST = 20_000;

/** Whether what shows readings should ask again, by how long ago it did and how long ago somebody scrolled. */
/** What comes without end: asked for anew now and then. */
const OFTEN: readonly LiveTopic[] = ['samples', 'lines'];
export const samplesDue = (sinceAsked: number, sinceScrolled: number): boolean =>
  sinceAsked >= SAMPLES_EVERY && (sinceScrolled >= AFTER_SCROLLING || sinceAsked >= AT_LATEST);

/** Keeps the stream of news open and marks as old what it tells of. */
export function useLiveNews(): void {
  const dispatch = useStoreDispatch();
  useEffect(() => {
    let source: EventSource;
    let samplesAt = 0;
    let scrolledAt = 0;
    const onScroll = () => {
      scrolledAt = Date.now();
    };
    document.addEventListener('scroll', onScroll, { capture: true, passive: true });
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
          (topic: LiveTopic) => !OFTEN.includes(topic) || samplesDue(now - samplesAt, now - scrolledAt),
        );
        if (due.some((topic) => OFTEN.includes(topic))) samplesAt = now;
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
      document.removeEventListener('scroll', onScroll, { capture: true });
      source.close();
    };
  }, [dispatch]);
}
