import type { AlertAnswer } from '@zetopsis/contract';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { useState } from 'react';
import { Link } from 'react-router';
import { Diamond } from '../../drawing/Diamond.tsx';
import { pathWords } from '../../drawing/names.ts';
import { toldWords } from '../../drawing/told.ts';
import { StretchForm } from '../../frame/StretchForm.tsx';
import { draftOfWindow, type StretchDraft } from '../../frame/stretchDraft.ts';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';

/** Alerts, newest first, each leading to what it is about at that time. */
export function AlertHistory({ alerts, title, span }: { alerts: readonly AlertAnswer[]; title: string; span: string }) {
  const { link } = useView();
  const now = useNow();
  const [marking, setMarking] = useState<StretchDraft | null>(null);
  return (
    <section aria-label="history">
      <div className="mb-1 flex items-baseline gap-3">
        <h3 className="section-title">{title}</h3>
        <p className="text-sm text-soft">{span}</p>
      </div>
      <StretchForm first={marking} close={() => setMarking(null)} />
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
              <td className="py-1 text-right text-soft">
                {alert.trial ? 'on trial' : toldWords(alert)}{' '}
                <button
                  type="button"
                  className="button-plain"
                  aria-label={`mark as trouble: ${alert.title}`}
                  title="mark this time as trouble, so that rehearsals know it"
                  onClick={() =>
                    setMarking({
                      ...draftOfWindow({ from: alert.since, to: alert.endedAt }, alert.path),
                      kind: 'trouble',
                      title: alert.title.slice(0, 120),
                    })
                  }
                >
                  mark
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
