import type { PushDocument, PushKeyAnswer } from '@zetopsis/contract';
import { formatClock, formatCount } from '@zetopsis/core/format';
import { MASKED_KINDS } from '@zetopsis/core/lines';
import { UNTIED } from '@zetopsis/core/origins';
import { useState } from 'react';
import { FailureNote, RowSkeleton, StateNote } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useEndTokenBeforeMutation, useNewPushTokenMutation, usePushKeysQuery } from '../../state/pushKeysApi.ts';
import { PushKeyForm, type Told } from './PushKeyForm.tsx';
import { PushRecipes } from './PushRecipes.tsx';

/** Keys with which programs push their figures. */
export function PushKeys() {
  const { data, error, refetch } = usePushKeysQuery(undefined, { pollingInterval: 10_000 });
  const [side, setSide] = useState<{ own: PushKeyAnswer | null } | null>(null);
  const [told, setTold] = useState<Told | null>(null);
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={4} height={60} />}
      </div>
    );
  const make = (
    <button type="button" className="button" onClick={() => setSide({ own: null })}>
      make a push key
    </button>
  );
  return (
    <div className="flex h-full min-h-0">
      <div className="min-w-0 flex-1 overflow-auto px-5 py-4">
        <div className="mb-2 flex items-center justify-between">
          <h2 className="section-title">Push keys</h2>
          {data.keys.length > 0 && make}
        </div>
        {told && (
          <section aria-label="the new token" className="mb-4 max-w-3xl border border-ink bg-sheet p-3">
            <p className="mb-2 font-semibold">The token of {told.key}. Take it now: it is not shown again.</p>
            <PushRecipes address={data.address} token={told.token} />
            <button type="button" className="button-plain mt-2 text-sm" onClick={() => setTold(null)}>
              I have it
            </button>
          </section>
        )}
        {data.keys.length === 0 && (
          <StateNote title="Nothing can be pushed yet">
            <p>
              A program that no page can be read from, or that ends before it is asked, sends its figures itself: by the
              open telemetry protocol over HTTP, or as a metrics page. A key says whose they are.
            </p>
            {make}
          </StateNote>
        )}
        {data.keys.map((own) => (
          <KeyRow key={own.key} own={own} address={data.address} change={() => setSide({ own })} tell={setTold} />
        ))}
      </div>
      {side && <PushKeyForm key={side.own?.key ?? 'new'} own={side.own} close={() => setSide(null)} tell={setTold} />}
    </div>
  );
}

function KeyRow({
  own,
  address,
  change,
  tell,
}: {
  own: PushKeyAnswer;
  address: string;
  change: () => void;
  tell: (told: Told) => void;
}) {
  const [recipes, setRecipes] = useState(false);
  const now = useNow(10_000);
  const [renew, { error }] = useNewPushTokenMutation();
  const { document, senders, late, lastUsedAt, tokenAt } = own;
  return (
    <article aria-label={own.key} className="mb-2 border border-line bg-sheet px-4 py-3">
      <div className="flex items-baseline gap-3">
        <h3 className="text-lg">{own.key}</h3>
        {document.use === 'off' && <b className="text-sm">off</b>}
        <span className="text-sm text-soft">
          {formatCount(senders, 'sender')}
          {late > 0 && `, ${late} late`}
          {lastUsedAt !== null && `; last used ${formatClock(lastUsedAt, now, { seconds: true })}`}
        </span>
        <button
          type="button"
          className="button-plain ml-auto text-sm"
          onClick={() => void renew(own.key).then(({ data }) => data && tell(data))}
        >
          new token
        </button>
        <button
          type="button"
          className="button-plain text-sm"
          aria-expanded={recipes}
          onClick={() => setRecipes(!recipes)}
        >
          how to send
        </button>
        <button type="button" className="button-plain text-sm" onClick={change}>
          look or change
        </button>
      </div>
      {recipes && (
        <section aria-label={`how to send with ${own.key}`} className="my-2 max-w-3xl">
          <PushRecipes address={address} />
        </section>
      )}
      {tokenAt === null && (
        <p className="mt-1">
          <b>It has no token: nothing can be pushed with it.</b>{' '}
          <span className="text-soft">→ Make one, and give it to the program.</span>
        </p>
      )}
      {own.before !== null && <TokenBefore own={own} before={own.before} now={now} />}
      {own.refused > 0 && (
        <p className="mt-1 text-sm">
          <b>{own.refused} points, lines or spans refused since the start:</b> {countedWords(own.refusals)}
        </p>
      )}
      {own.lines + own.spans > 0 && (
        <p className="mt-1 text-sm">
          <b>
            {formatCount(own.lines, 'log line')} and {formatCount(own.spans, 'span')} since the start
          </b>
          {own.again > 0 && `, ${formatCount(own.again, 'push', 'pushes')} that had come before, counted once`}
          {maskedWords(own.masked) !== '' && `; masked in them: ${maskedWords(own.masked)}`}
        </p>
      )}
      {own.untied.map(({ why, count }) => (
        <p key={why} className="mt-1 text-sm">
          <b>{formatCount(count, 'line or span', 'lines and spans')} at no pod:</b> {UNTIED[why]}
        </p>
      ))}
      <p className="mt-1 text-sm text-soft">{keyWords(document)}</p>
      <FailureText error={error} className="mt-1" />
    </article>
  );
}
/** The token before: until when it counts, and whether anybody still uses it. */
function TokenBefore({
  own,
  before,
  now,
}: {
  own: PushKeyAnswer;
  before: NonNullable<PushKeyAnswer['before']>;
  now: number;
}) {
  const [end, { error, isLoading }] = useEndTokenBeforeMutation();
  return (
    <p className="mt-1 flex flex-wrap items-baseline gap-x-3 text-sm">
      <span>
        The token before is valid until {formatClock(before.until, now)};{' '}
        {before.usedAt === null
          ? 'nobody used it since the start'
          : `last used ${formatClock(before.usedAt, now, { seconds: true })}`}
        .
      </span>
      <button type="button" className="button-plain" disabled={isLoading} onClick={() => void end(own.key)}>
        end it now
      </button>
      <FailureText error={error} />
    </p>
  );
}
const countedWords = (all: PushKeyAnswer['refusals']): string =>
  all.map(({ why, count }) => (all.length === 1 ? why : `${why} (${count})`)).join('; ');
const MASKED_WORDS = {
  card: { one: 'card number', many: 'card numbers' },
  token: { one: 'token or password', many: 'tokens and passwords' },
  key: { one: 'private key', many: 'private keys' },
  mail: { one: 'email address', many: 'email addresses' },
  own: { one: 'text by an own pattern', many: 'texts by own patterns' },
} as const;
const maskedWords = (masked: PushKeyAnswer['masked']): string =>
  MASKED_KINDS.filter((kind) => masked[kind] > 0)
    .map((kind) => formatCount(masked[kind], MASKED_WORDS[kind].one, MASKED_WORDS[kind].many))
    .join(', ');
function keyWords({ team, cluster, namespace, intervalSeconds, labels, sampling }: PushDocument): string {
  const attached = Object.entries(labels).map(([name, value]) => `${name} ${value}`);
  return [
    team === null ? null : `of team ${team}`,
    cluster === null ? 'speaks of no cluster' : `speaks of ${[cluster, namespace].filter(Boolean).join(' › ')}`,
    `expected every ${intervalSeconds} s`,
    sampling === null
      ? null
      : `of traces all that failed or took ${sampling.slowSeconds} s are kept, and one in ${sampling.oneIn} of the rest`,
    attached.length > 0 ? `with ${attached.join(', ')}` : null,
  ]
    .filter((part) => part !== null)
    .join(', ');
}
