import { EVERYTHING, placeOf, readPath, type SheetAnswer, writePath } from '@zetopsis/contract';
import { formatAmount, formatClock, formatDuration } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { useState } from 'react';
import { Copyable } from '../../drawing/Copyable.tsx';
import { LineDifference } from '../../drawing/LineDifference.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { useNow } from '../../frame/useNow.ts';
import { queried, useView, viewed } from '../../frame/useView.ts';
import { asFailure } from '../../state/failure.ts';
import { useLazyLogQuery, useVersionsQuery } from '../../state/usageApi.ts';
import { Section } from './SheetSections.tsx';

/** How a deployment's pods are being replaced: the old ones against the new ones. */
export function Rollout({ sheet }: { sheet: SheetAnswer }) {
  const now = useNow();
  const { rollout } = sheet;
  if (rollout === null) return null;
  const { desired, updated, old, keeps, expectedEnd, goesOn } = rollout;
  const share = (count: number) => `${(Math.min(count, desired) / Math.max(1, desired)) * 100}%`;
  return (
    <Section title="Rollout">
      <p className="text-sm">
        <b>{rollout.change}</b>, begun {formatClock(rollout.at, now)} ({formatDuration(now - rollout.at)} ago).{' '}
        {goesOn
          ? expectedEnd === null
            ? 'It goes on; no new pod is ready yet, so no end can be told.'
            : `It goes on; at this pace it ends at about ${formatClock(expectedEnd, now)}.`
          : old > 0
            ? 'It does not go on.'
            : 'It is done.'}
      </p>
      <div
        role="img"
        aria-label={`${updated} of ${desired} updated, ${old} old`}
        className="relative my-1.5 h-4 border border-structure"
      >
        <span
          className="absolute inset-y-0 left-0 bg-[var(--fill-3)]"
          style={{ width: share(rollout.sides[0]?.ready ?? 0) }}
        />
        <span
          className="absolute inset-y-0 left-0 border-r-2 border-ink bg-[var(--fill-1)] opacity-60"
          style={{ width: share(updated) }}
        />
        {keeps !== null && (
          <span
            className="absolute -bottom-1 h-2 w-0 border-l-2 border-ink"
            style={{ left: share(keeps) }}
            title={`at least ${keeps} are kept`}
          />
        )}
      </div>
      <p className="mb-1.5 text-xs text-soft">
        {updated} of {desired} updated · {rollout.ready} ready · {old} old still there
        {keeps !== null && ` · at least ${keeps} are kept (mark below)`}
      </p>
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-xs text-soft">
            {['', 'version', 'ready', 'CPU a pod', 'memory a pod', 'restarts'].map((head) => (
              <th key={head} className="pr-2 font-medium">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rollout.sides.map((side) => (
            <tr key={side.name} className="border-t border-hair align-baseline">
              <th className="py-0.5 pr-2 text-left font-semibold">{side.name}</th>
              <td className="max-w-32 truncate pr-2 font-mono text-xs" title={side.images}>
                {side.images}
              </td>
              <td className={clsx('pr-2', side.ready < side.pods && 'font-semibold')}>
                {side.ready} of {side.pods}
              </td>
              <td className="pr-2">{formatAmount('cpu', side.cpu)}</td>
              <td className="pr-2">{formatAmount('memory', side.memory)}</td>
              <td>{side.restarts}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {rollout.sides.map((side) =>
        side.failing === null ? null : (
          <p key={side.name} className="mt-1 text-sm">
            <b>{side.name}:</b> {side.failing}
          </p>
        ),
      )}
    </Section>
  );
}

/** What one would change, to be copied to where the object is defined: Zetopsis never writes to a cluster. */
export function Changes({ sheet }: { sheet: SheetAnswer }) {
  if (sheet.changes.length === 0) return null;
  return (
    <Section title="What one would change">
      <div className="space-y-2">
        {sheet.changes.map(({ title, text }) => (
          <Copyable key={`${title} ${text}`} text={text} label={title} />
        ))}
      </div>
    </Section>
  );
}

/** The last 50 lines of a container, asked of the cluster when somebody wants them. */
export function Logs({ sheet }: { sheet: SheetAnswer }) {
  if (sheet.logs.length === 0) return null;
  return (
    <Section title="Last lines">
      <ul className="space-y-1.5 text-sm">
        {sheet.logs.map((log) => (
          <LogOf key={`${log.pod} ${log.container}`} sheet={sheet} log={log} />
        ))}
      </ul>
    </Section>
  );
}
function LogOf({ sheet, log }: { sheet: SheetAnswer; log: SheetAnswer['logs'][number] }) {
  const now = useNow(10_000);
  const [ask, { data, error, isFetching }] = useLazyLogQuery();
  const { cluster, namespace } = placeOf(readPath(sheet.path) ?? EVERYTHING);
  const place = writePath({ is: 'namespace', cluster: cluster ?? '', namespace: namespace ?? '' });
  const want = (previous: boolean) =>
    void ask({ path: place, pod: log.pod, container: log.container, previous: previous ? 'yes' : 'no' });
  return (
    <li>
      <p className="flex flex-wrap items-baseline gap-x-3">
        <b className="font-semibold break-all">{log.container}</b>
        {sheet.level === 'workload' && <span className="font-mono text-xs break-all text-soft">{log.pod}</span>}
        <button type="button" className="button-plain" disabled={isFetching} onClick={() => want(false)}>
          last 50 lines
        </button>
        {log.previous && (
          <button type="button" className="button-plain" disabled={isFetching} onClick={() => want(true)}>
            of the instance before
          </button>
        )}
      </p>
      <FailureText error={error} />
      {data && (
        <figure className="mt-1 border border-line">
          <figcaption className="border-b border-hair px-2 py-0.5 text-xs text-soft">
            {data.previous ? 'the instance before' : 'the instance that is there'}, as the cluster gave it at{' '}
            {formatClock(data.at, now, { seconds: true })}; not kept
          </figcaption>
          {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard */}
          <pre className="max-h-64 overflow-auto px-2 py-1 font-mono text-xs" tabIndex={0}>
            {data.lines.join('\n') || 'It has written nothing.'}
          </pre>
        </figure>
      )}
    </li>
  );
}

/** Every state that is kept, and what changed from one to the next. */
export function Versions({ sheet }: { sheet: SheetAnswer }) {
  const [open, setOpen] = useState(false);
  const single = !['cluster', 'namespace', 'team', 'host', 'container'].includes(sheet.level);
  if (!single) return null;
  return (
    <Section title="Versions">
      {open ? (
        <VersionList path={sheet.path} />
      ) : (
        <button type="button" className="button-plain text-sm" onClick={() => setOpen(true)}>
          every state that is kept, and what changed
        </button>
      )}
    </Section>
  );
}
function VersionList({ path }: { path: readonly string[] }) {
  const { view } = useView();
  const now = useNow(60_000);
  const { data, error } = useVersionsQuery({ ...viewed({ ...view, ...queried(view) }), path });
  const [shown, setShown] = useState<number | null>(null);
  if (error) return <p role="alert">{asFailure(error).text}</p>;
  if (!data) return <p className="text-sm text-soft">loading</p>;
  return (
    <ul className="text-sm">
      {data.versions.map((version) => (
        <li key={version.from} className="border-t border-hair py-1">
          <button
            type="button"
            className="grid w-full grid-cols-[96px_1fr] gap-2 text-left hover:text-petrol"
            aria-expanded={shown === version.from}
            onClick={() => setShown(shown === version.from ? null : version.from)}
          >
            <span className="text-soft">{formatClock(version.from, now, { seconds: true })}</span>
            <span className="min-w-0 break-words">{version.words}</span>
          </button>
          {shown === version.from && (
            <LineDifference lines={version.lines} className="mt-1 max-h-72 border border-line px-2 py-1" />
          )}
        </li>
      ))}
      {data.more && <li className="text-soft">Older ones are kept and not shown.</li>}
    </ul>
  );
}
