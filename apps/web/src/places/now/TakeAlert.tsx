import type { AlertAnswer } from '@zetopsis/contract';
import { formatClock } from '@zetopsis/core/format';
import { useState } from 'react';
import { FailureText } from '../../forms/FailureText.tsx';
import { useTakeAlertMutation } from '../../state/nowApi.ts';

/** Who looks after an alert; whoever may, takes it with a note, or gives it back. */
export function TakeAlert({ alert: { id, title, taken, mayTake }, now }: { alert: AlertAnswer; now: number }) {
  const [take, { error, isLoading }] = useTakeAlertMutation();
  const [note, setNote] = useState<string | null>(null);
  const submit = async (words: string | null) => {
    const done = await take({ id, note: words });
    if (!done.error) setNote(null);
  };
  return (
    <div className="mt-1 text-sm">
      {taken && (
        <p>
          <b>{taken.by}</b> looks after it since {formatClock(taken.at, now)}
          {taken.note !== '' && `: ${taken.note}`}{' '}
          {mayTake && (
            <button
              type="button"
              className="button-plain"
              aria-label={`give back: ${title}`}
              disabled={isLoading}
              onClick={() => void submit(null)}
            >
              give it back
            </button>
          )}
        </p>
      )}
      {!taken && mayTake && note === null && (
        <button type="button" className="button-plain" aria-label={`take: ${title}`} onClick={() => setNote('')}>
          take it
        </button>
      )}
      {!taken && note !== null && (
        <form
          className="flex items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void submit(note);
          }}
        >
          <input
            autoFocus
            className="field w-72"
            aria-label={`note to taking: ${title}`}
            placeholder="what you do about it (may be empty)"
            maxLength={500}
            value={note}
            onChange={({ target }) => setNote(target.value)}
            onKeyDown={({ key }) => key === 'Escape' && setNote(null)}
          />
          <button type="submit" className="button" disabled={isLoading}>
            Take it
          </button>
        </form>
      )}
      <FailureText error={error} />
    </div>
  );
}
