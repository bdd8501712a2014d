import type { ChangeAnswer, RevisionAnswer, RevisionInput } from '@zetopsis/contract';
import { formatClock, formatCount } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { OlderButton } from '../../drawing/OlderButton.tsx';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useRevisionQuery, useRevisionsInfiniteQuery, useTurnBackMutation } from '../../state/configurationApi.ts';
import { Differences } from './Differences.tsx';

/** Every saved state of what is configured; the address's fragment names the chosen one. */
export function Revisions() {
  const { data, error, refetch, hasNextPage, fetchNextPage, isFetchingNextPage } = useRevisionsInfiniteQuery();
  const { hash, search, pathname } = useLocation();
  const navigate = useNavigate();
  const now = useNow(60_000);
  const revisions = data?.pages.flatMap((page) => page.revisions) ?? [];
  const chosen = Number(hash.slice(1)) || revisions[0]?.id;
  const choose = (id: number) => void navigate({ pathname, search, hash: String(id) }, { replace: true });
  return (
    <div className="grid grid-cols-[minmax(0,5fr)_minmax(0,7fr)] gap-8">
      <section aria-label="revisions">
        <div className="mb-2 flex items-baseline gap-3">
          <h2 className="section-title">Revisions</h2>
          <p className="text-sm text-soft">each change of what is configured, newest first</p>
        </div>
        {!data &&
          (error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={8} height={40} />)}
        <ul>
          {revisions.map((revision) => (
            <li key={revision.id} className="border-b border-hair">
              <button
                type="button"
                aria-pressed={revision.id === chosen}
                className={clsx(
                  'grid w-full grid-cols-[44px_84px_minmax(0,1fr)] gap-2 px-2 py-1.5 text-left text-sm',
                  revision.id === chosen ? 'bg-sheet' : 'hover:bg-sheet/60',
                )}
                onClick={() => choose(revision.id)}
              >
                <span className="text-soft">{revision.id}</span>
                <span className="whitespace-nowrap text-soft">{formatClock(revision.at, now)}</span>
                <span>
                  <b className="font-semibold">{revision.by}</b> {revision.what}
                </span>
              </button>
            </li>
          ))}
        </ul>
        <OlderButton what="revisions" pages={{ hasNextPage, isFetchingNextPage, fetchNextPage }} />
      </section>
      {chosen !== undefined && <Chosen key={chosen} id={chosen} newest={chosen === revisions[0]?.id} choose={choose} />}
    </div>
  );
}

function Chosen({ id, newest, choose }: { id: number; newest: boolean; choose: (id: number) => void }) {
  const { data, error, refetch } = useRevisionQuery(id);
  const [turnBack, turning] = useTurnBackMutation();
  const [tried, setTried] = useState<{ act: RevisionInput['act']; answer: ChangeAnswer } | null>(null);
  const tryOut = async (act: RevisionInput['act']) => {
    const { data: answer } = await turnBack({ id, act, along: true, tryOnly: true });
    if (answer) setTried({ act, answer });
  };
  const apply = async () => {
    if (!tried) return;
    const { data: answer } = await turnBack({
      id,
      act: tried.act,
      along: tried.answer.along.length > 0,
      tryOnly: false,
    });
    if (!answer) return;
    if (answer.revision === null) setTried({ ...tried, answer });
    else choose(answer.revision);
  };
  if (!data)
    return error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={4} height={60} />;
  return (
    <section aria-label={`revision ${id}`}>
      <Head revision={data} />
      <div className="mb-3 flex gap-3">
        <button type="button" className="button" disabled={turning.isLoading} onClick={() => void tryOut('undo')}>
          take it back
        </button>
        {!newest && (
          <button type="button" className="button" disabled={turning.isLoading} onClick={() => void tryOut('return')}>
            return to it
          </button>
        )}
        <p className="self-center text-xs text-soft">shows what would change first</p>
      </div>
      <FailureText error={turning.error} className="mb-3" />
      {tried && <Tried {...tried} apply={() => void apply()} drop={() => setTried(null)} busy={turning.isLoading} />}
      <h3 className="mb-1 text-sm font-bold">What it changed</h3>
      <Differences differences={data.differences} done />
    </section>
  );
}

function Head({ revision }: { revision: RevisionAnswer }) {
  const now = useNow(60_000);
  return (
    <div className="mb-2">
      <h2 className="section-title">Revision {revision.id}</h2>
      <p className="text-sm text-soft">
        {revision.by} {revision.what}, {formatClock(revision.at, now, { seconds: true })} ·{' '}
        {formatCount(revision.changes.length, 'document')}
      </p>
    </div>
  );
}

function Tried({
  act,
  answer,
  apply,
  drop,
  busy,
}: {
  act: RevisionInput['act'];
  answer: ChangeAnswer;
  apply: () => void;
  drop: () => void;
  busy: boolean;
}) {
  const what = act === 'undo' ? 'Taking it back' : 'Returning to it';
  const { along } = answer;
  return (
    <section aria-label="what would change" className="mb-4 border border-ink p-3" role="status">
      {along.length > 0 && <Along revisions={along} />}
      {answer.problems.length > 0 ? (
        <>
          <p className="mb-1 font-semibold">{what} is not possible now:</p>
          <ul className="text-sm">
            {answer.problems.map(({ path, text }) => (
              <li key={`${path} ${text}`}>
                {path}: {text}
              </li>
            ))}
          </ul>
        </>
      ) : answer.differences.length === 0 ? (
        <p>{what} would change nothing: everything is so already.</p>
      ) : (
        <>
          <p className="mb-2 font-semibold">{what} would change this:</p>
          <Differences differences={answer.differences} />
          <button type="button" className="button mt-3" disabled={busy} onClick={apply}>
            {act === 'return'
              ? 'yes, return to it'
              : along.length > 0
                ? `yes, take all ${along.length + 1} back`
                : 'yes, take it back'}
          </button>
        </>
      )}
      <button type="button" className="button-plain mt-3 ml-3" onClick={drop}>
        leave it
      </button>
    </section>
  );
}

/** Later revisions that changed the same: taking one back without them would leave half of each. */
function Along({ revisions }: { revisions: ChangeAnswer['along'] }) {
  const now = useNow(60_000);
  return (
    <div className="mb-2">
      <p className="font-semibold">What it changed was changed again since. These go along:</p>
      <ul className="text-sm">
        {revisions.map(({ id, by, what, at }) => (
          <li key={id}>
            <span className="text-soft">
              {id}, {formatClock(at, now)}
            </span>{' '}
            {by} {what}
          </li>
        ))}
      </ul>
    </div>
  );
}
