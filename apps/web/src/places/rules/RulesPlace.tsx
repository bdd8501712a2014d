import type { AlertAnswer, DeliveryAnswer, RuleAnswer, RulesAnswer } from '@zetopsis/contract';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { useState } from 'react';
import { Link } from 'react-router';
import { Diamond } from '../../drawing/Diamond.tsx';
import { pathWords } from '../../drawing/names.ts';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { toldWords } from '../../drawing/told.ts';
import { ForAdministrators } from '../../frame/ForAdministrators.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';
import { useRetryDeliveryMutation, useRulesQuery } from '../../state/rulesApi.ts';
import { RuleForm } from './RuleForm.tsx';
import { ruleState, sentenceOf } from './rulesModel.ts';

/** When should somebody be told, and who? */
export function RulesPlace() {
  const { data, error, refetch } = useRulesQuery();
  const { link } = useView();
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={6} height={60} />}
      </div>
    );
  const administrator = data.mayChange;
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_minmax(400px,38%)]">
      <div className="overflow-auto px-5 py-4">
        <h2 className="section-title mb-2">Rules</h2>
        {data.rules.map((rule) => (
          <Rule key={rule.id} rule={rule} administrator={administrator} />
        ))}
        <ForAdministrators className="mb-4" what="Changing rules is" />
        <History alerts={data.history} />
      </div>
      <div className="overflow-auto border-l border-line bg-sheet px-5 py-4">
        {data.unowned.length > 0 && (
          <p className="mb-4 text-sm">
            <b>Nobody would be told</b> about {data.unowned.join(', ')}: no team owns{' '}
            {data.unowned.length === 1 ? 'it' : 'them'}.{' '}
            {administrator && (
              <Link className="button-plain" to={link('/admin/teams')}>
                give them an owner
              </Link>
            )}
          </p>
        )}
        <Deliveries data={data} administrator={administrator} />
      </div>
    </div>
  );
}

function Rule({ rule, administrator }: { rule: RuleAnswer; administrator: boolean }) {
  const now = useNow();
  const [editing, setEditing] = useState(false);
  return (
    <article aria-label={rule.name} className="mb-2 border border-line bg-sheet px-4 py-3">
      <div className="flex items-baseline gap-3">
        <h3 className="text-[15px]">{rule.name}</h3>
        {administrator && !editing && (
          <button
            type="button"
            className="button-plain ml-auto text-sm"
            onClick={() => setEditing(true)}
            aria-label={`change the rule ${rule.name}`}
          >
            change
          </button>
        )}
      </div>
      {editing ? (
        <RuleForm rule={rule} close={() => setEditing(false)} />
      ) : (
        <p className="mt-0.5">{sentenceOf(rule)}</p>
      )}
      <p className="mt-1 text-sm text-soft">{ruleState(rule, now)}</p>
    </article>
  );
}

function History({ alerts }: { alerts: readonly AlertAnswer[] }) {
  const { link } = useView();
  const now = useNow();
  return (
    <section aria-label="history" className="mt-6">
      <div className="mb-1 flex items-baseline gap-3">
        <h2 className="section-title">What was raised</h2>
        <p className="text-sm text-soft">last 7 days</p>
      </div>
      {alerts.length === 0 && <p className="text-soft">Nothing was raised.</p>}
      <table className="w-full text-sm">
        <tbody>
          {alerts.map((alert) => (
            <tr key={alert.id} className="border-b border-hair align-baseline">
              <td className="w-14 py-1 pr-3 whitespace-nowrap text-soft">{formatClock(alert.raisedAt, now)}</td>
              <td className="py-1 pr-3">
                <Diamond severity={alert.severity} size={10} />{' '}
                <Link
                  className="hover:text-petrol"
                  to={link('/usage', {
                    path: alert.path,
                    window: { from: alert.since - 1_800_000, to: Math.min(now, (alert.endedAt ?? now) + 600_000) },
                  })}
                >
                  {alert.title}
                </Link>
                <span className="text-soft"> {pathWords(alert.path.slice(0, 2))}</span>
              </td>
              <td className="py-1 pr-3 whitespace-nowrap">
                {alert.endedAt === null ? (
                  <b>raised for {formatDuration(now - alert.since)}</b>
                ) : (
                  `${alert.endedHow} after ${formatDuration(alert.endedAt - alert.since)}`
                )}
              </td>
              <td className="py-1 text-right text-soft">{toldWords(alert)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Deliveries({ data, administrator }: { data: RulesAnswer; administrator: boolean }) {
  const now = useNow();
  return (
    <section aria-label="messages">
      <h2 className="section-title">Messages</h2>
      <p className="mb-2 text-sm text-soft">{data.mail.text}</p>
      {data.deliveries.length === 0 && <p className="text-soft">None yet.</p>}
      <ul className="text-sm">
        {data.deliveries.map((message) => (
          <li key={message.id} className="border-b border-hair py-1">
            <div className="flex gap-3">
              <span className="w-16 shrink-0 text-soft">{formatClock(message.createdAt, now)}</span>
              <span className="min-w-0 flex-1">
                {message.subject} <span className="text-soft">to {message.to}</span>
              </span>
              <Delivery message={message} administrator={administrator} now={now} />
            </div>
            {message.error !== null && message.state !== 'sent' && (
              <p className="pl-[76px] text-soft">{message.error}</p>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Delivery({ message, administrator, now }: { message: DeliveryAnswer; administrator: boolean; now: number }) {
  const [retry] = useRetryDeliveryMutation();
  if (message.state === 'sent') return <span className="shrink-0 text-soft">sent</span>;
  if (message.state === 'waiting')
    return (
      <span className="shrink-0">
        {message.nextAt !== null && message.nextAt > now
          ? `next try in ${formatDuration(message.nextAt - now)}`
          : 'waiting'}
      </span>
    );
  return administrator ? (
    <button type="button" className="button-plain shrink-0" onClick={() => void retry(message.id)}>
      given up; try again
    </button>
  ) : (
    <b className="shrink-0">given up</b>
  );
}
