import type { ForwardsAnswer, ForwardTest } from '@zetopsis/contract';
import { formatBytes, formatClock, formatCount, formatDuration } from '@zetopsis/core/format';
import { useState } from 'react';
import { FailureNote, RowSkeleton, StateNote } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { RemoveButton } from '../../forms/RemoveButton.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useForwardsQuery, useRemoveForwardMutation, useTestForwardMutation } from '../../state/forwardsApi.ts';
import { ForwardForm } from './ForwardForm.tsx';

type Own = ForwardsAnswer['forwards'][number];

/** Receivers to which goes on what is pushed. */
export function Forwards() {
  const { data, error, refetch } = useForwardsQuery(undefined, { pollingInterval: 5000 });
  const [side, setSide] = useState<{ own: Own | null } | null>(null);
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={3} height={60} />}
      </div>
    );
  const make = (
    <button type="button" className="button" onClick={() => setSide({ own: null })}>
      add a receiver
    </button>
  );
  return (
    <div className="flex h-full min-h-0">
      <div className="min-w-0 flex-1 overflow-auto px-5 py-4">
        <div className="mb-2 flex max-w-4xl items-center justify-between">
          <h2 className="section-title">Receivers</h2>
          {data.forwards.length > 0 && make}
        </div>
        {data.forwards.length === 0 ? (
          <StateNote title="Nothing goes on from here">
            <p>
              What programs push, and log lines that are followed, can go on to another receiver of the open telemetry
              protocol: after masking, as you choose. While it is away what is for it waits here.
            </p>
            {make}
          </StateNote>
        ) : (
          <p className="mb-3 max-w-4xl text-sm text-soft">
            After masking, by the same protocol. Metrics pages, read or pushed as text, do not go on.
          </p>
        )}
        {data.forwards.map((own) => (
          <ForwardRow key={own.key} own={own} change={() => setSide({ own })} removed={() => setSide(null)} />
        ))}
      </div>
      {side && <ForwardForm key={side.own?.key ?? 'new'} own={side.own} answer={data} close={() => setSide(null)} />}
    </div>
  );
}

/** What of everything goes on, in words. */
function chosenWords({ signals, keys, clusters, leastLevel, failedOnly }: Own['document']): string {
  const named: Record<(typeof signals)[number], string> = {
    metrics: 'metrics',
    logs: leastLevel === null ? 'log lines' : `log lines of level ${leastLevel} and graver`,
    traces: failedOnly ? 'spans that failed' : 'spans',
  };
  return [
    signals.map((signal) => named[signal]).join(', '),
    clusters.length === 0 ? 'of all clusters and of what is outside' : `of ${clusters.join(', ')}`,
    keys.length === 0 ? 'with any key' : `that came with ${keys.join(', ')}`,
  ].join(' ');
}

function ForwardRow({ own, change, removed }: { own: Own; change: () => void; removed: () => void }) {
  const now = useNow(5000);
  const { document, state, proves } = own;
  const [remove, removing] = useRemoveForwardMutation();
  const [test, testing] = useTestForwardMutation();
  const { waiting, trouble } = state;
  return (
    <article aria-label={document.title} className="mb-2 max-w-4xl border border-line bg-sheet px-4 py-2.5">
      <p className="flex items-baseline gap-3">
        <b>{document.title}</b>
        {document.use === 'off' && <b className="text-sm">off</b>}
        <span className="truncate font-mono text-sm text-soft">{document.address}</span>
        <span className="ml-auto flex shrink-0 gap-3 text-sm">
          <button
            type="button"
            className="button-plain"
            disabled={testing.isLoading}
            onClick={() => void test(own.key)}
          >
            test it
          </button>
          <button type="button" className="button-plain" onClick={change}>
            change it
          </button>
          <RemoveButton
            title={`Let nothing go on to ${document.title} any more?`}
            text={
              waiting.requests === 0
                ? 'Nothing waits for it.'
                : `${formatCount(waiting.items, 'item')} that wait for it are thrown away.`
            }
            remove={() => remove(own.key)}
            error={removing.error}
            busy={removing.isLoading}
            removed={removed}
          />
        </span>
      </p>
      <p className="text-sm">{chosenWords(document)}</p>
      <p className="text-sm">
        {formatCount(state.sent, 'item')} taken there since the start
        {state.lastSentAt !== null && (
          <span className="text-soft">, the last {formatDuration(Math.max(1000, now - state.lastSentAt))} ago</span>
        )}
        {waiting.requests > 0 && waiting.since !== null && (
          <>
            ; <b>{formatCount(waiting.items, 'item')} wait</b>, {formatBytes(waiting.bytes)} of{' '}
            {document.backlogMegabytes} MiB, the oldest for {formatDuration(Math.max(1000, now - waiting.since))}
          </>
        )}
        {!proves && <span className="text-soft">; sent without a token</span>}
      </p>
      {trouble !== null && (
        <p className="text-sm">
          <b>Not taken since {formatClock(trouble.since, now, { seconds: true })}:</b> {trouble.why}
        </p>
      )}
      {state.dropped > 0 && (
        <p className="text-sm">
          <b>{formatCount(state.dropped, 'item')} thrown away</b> since the start: there was no room for more.
        </p>
      )}
      {state.refused > 0 && (
        <p className="text-sm">
          <b>{formatCount(state.refused, 'item')} refused there</b> for good since the start. {state.refusal}
        </p>
      )}
      {testing.data && <Tested test={testing.data} />}
      <FailureText error={testing.error} />
      {document.note !== '' && <p className="text-sm whitespace-pre-wrap text-soft">{document.note}</p>}
    </article>
  );
}

function Tested({ test: { answers } }: { test: ForwardTest }) {
  return (
    <ul aria-label="what it answered" className="mt-1 border-l border-structure pl-2 text-sm">
      {answers.map(({ signal, taken, words }) => (
        <li key={signal}>
          {signal}: {taken ? <span>{words}</span> : <b className="font-semibold">{words}</b>}
        </li>
      ))}
    </ul>
  );
}
