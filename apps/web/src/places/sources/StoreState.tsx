import type { SourcesAnswer } from '@zetopsis/contract';
import { formatBytes, formatCount, formatDuration } from '@zetopsis/core/format';
import { useNow } from '../../frame/useNow.ts';
import { spaceWords } from './sourcesModel.ts';

/** Whether what is read is kept, and for how long there is room. */
export function StoreState({ store }: { store: SourcesAnswer['store'] }) {
  const now = useNow();
  const troubles = [
    ...(store.heldBy === null
      ? []
      : [`Another process of Zetopsis (${store.heldBy}) reads and writes; this one takes over when that one stops.`]),
    ...(store.problem === null
      ? []
      : [
          `PostgreSQL takes no readings for ${formatDuration(now - (store.problemSince ?? now))}: ${store.problem}. ${formatCount(store.waiting, 'reading')} (${formatBytes(store.waitingBytes)}) wait in memory; when there is no more room the oldest are given up.`,
        ]),
    ...(store.packing === null ? [] : [`Packing stands still: ${store.packing}. It is tried again every minute.`]),
    ...(store.lost > 0 ? [`${formatCount(store.lost, 'reading')} had to be given up.`] : []),
    ...(store.refusedSeries > 0
      ? [
          `${formatCount(store.refusedSeries, 'series', 'series')} are past a limit and not kept: the endpoints above say which limit.`,
        ]
      : []),
  ];
  const notes = [
    ...(store.tooOld > 0 ? [`${formatCount(store.tooOld, 'sample')} came too late to be taken`] : []),
    ...(store.doubledOther > 0
      ? [
          `${formatCount(store.doubledOther, 'reading')} of a moment that had one already said otherwise: the first counts`,
        ]
      : []),
  ];
  return (
    <section aria-label="store" className="mb-6">
      <h2 className="section-title">Store</h2>
      <p className="text-sm">
        {formatCount(store.series, 'series', 'series')} known.{' '}
        {troubles.length === 0 && <span className="text-soft">What was read is stored.</span>}{' '}
        {store.space && <span>{spaceWords(store.space, now)}</span>}
      </p>
      {troubles.map((trouble) => (
        <p key={trouble} className="hatched mt-1 border border-structure px-2 py-1 text-sm font-semibold">
          {trouble}
        </p>
      ))}
      {notes.length > 0 && <p className="mt-1 text-sm text-soft">Since the start: {notes.join('; ')}.</p>}
    </section>
  );
}
