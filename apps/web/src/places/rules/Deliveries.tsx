import type { DeliveriesQuery, DeliveryAnswer, RulesAnswer } from '@zetopsis/contract';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { useDeferredValue, useState } from 'react';
import { FailureText } from '../../forms/FailureText.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useDeliveriesQuery, useRetryDeliveryMutation } from '../../state/rulesApi.ts';

const STATES = [
  ['', 'all'],
  ['waiting', 'waiting'],
  ['dead', 'given up'],
  ['sent', 'sent'],
] as const;

/** What was told to whom, and what became of it; older ones are found by their words. */
export function Deliveries({
  mail,
  newest,
  administrator,
}: {
  mail: RulesAnswer['mail'];
  newest: readonly DeliveryAnswer[];
  administrator: boolean;
}) {
  const [typed, setTyped] = useState('');
  const [state, setState] = useState<(typeof STATES)[number][0]>('');
  const [before, setBefore] = useState<number | undefined>(undefined);
  const text = useDeferredValue(typed.trim());
  const asked: DeliveriesQuery | null =
    text === '' && state === '' && before === undefined
      ? null
      : { text, ...(state === '' ? {} : { state }), ...(before === undefined ? {} : { before }) };
  const { data, error, isFetching } = useDeliveriesQuery(asked ?? { text: '' }, { skip: asked === null });
  const now = useNow();
  const shown = asked === null ? newest : (data?.deliveries ?? []);
  const last = shown.at(-1);
  const more = asked === null ? newest.length >= 50 : (data?.more ?? false);
  return (
    <section aria-label="messages">
      <h2 className="section-title">Messages</h2>
      <p className="mb-2 text-sm text-soft">{mail.text}</p>
      <div className="mb-2 flex gap-2">
        <input
          aria-label="find a message"
          className="field"
          placeholder="a word of it, or whom it went to"
          value={typed}
          onChange={({ target }) => {
            setTyped(target.value);
            setBefore(undefined);
          }}
        />
        <select
          aria-label="state of messages"
          className="field w-28"
          value={state}
          onChange={({ target }) => {
            setState(STATES.find(([one]) => one === target.value)?.[0] ?? '');
            setBefore(undefined);
          }}
        >
          {STATES.map(([one, words]) => (
            <option key={one} value={one}>
              {words}
            </option>
          ))}
        </select>
      </div>
      <FailureText error={error} />
      {shown.length === 0 && (
        <p className="text-soft">{asked === null ? 'None yet.' : isFetching ? 'looking' : 'None of these words.'}</p>
      )}
      <ul className="text-sm">
        {shown.map((message) => (
          <Line key={message.id} message={message} administrator={administrator} now={now} />
        ))}
      </ul>
      <p className="mt-1 flex gap-3">
        {before !== undefined && (
          <button type="button" className="button-plain" onClick={() => setBefore(undefined)}>
            the newest
          </button>
        )}
        {more && last && (
          <button type="button" className="button-plain" onClick={() => setBefore(last.id)}>
            older ones
          </button>
        )}
      </p>
    </section>
  );
}

function Line({ message, administrator, now }: { message: DeliveryAnswer; administrator: boolean; now: number }) {
  return (
    <li className="border-b border-hair py-1">
      <div className="flex gap-3">
        <span className="w-16 shrink-0 text-soft">{formatClock(message.createdAt, now)}</span>
        <span className="min-w-0 flex-1">
          {message.subject} <span className="text-soft">to {message.to}</span>
        </span>
        <Delivery message={message} administrator={administrator} now={now} />
      </div>
      {message.error !== null && message.state !== 'sent' && <p className="pl-[76px] text-soft">{message.error}</p>}
      {message.answer !== null && (
        <p className="pl-[76px] text-soft">
          it answered: <span className="font-mono text-xs break-all">{message.answer}</span>
        </p>
      )}
    </li>
  );
}

function Delivery({ message, administrator, now }: { message: DeliveryAnswer; administrator: boolean; now: number }) {
  const [retry, { error, isLoading }] = useRetryDeliveryMutation();
  if (message.state === 'sent')
    return <span className="shrink-0 text-soft">{message.together ? 'sent with others' : 'sent'}</span>;
  if (message.state === 'waiting')
    return (
      <span className="shrink-0">
        {message.nextAt !== null && message.nextAt > now
          ? `next try in ${formatDuration(message.nextAt - now)}`
          : 'waiting'}
      </span>
    );
  return administrator ? (
    <span className="shrink-0 text-right">
      <button type="button" className="button-plain" disabled={isLoading} onClick={() => void retry(message.id)}>
        given up; try again
      </button>
      <FailureText error={error} />
    </span>
  ) : (
    <b className="shrink-0">given up</b>
  );
}
