import type { SheetAnswer } from '@zetopsis/contract';
import { formatClock, formatCount, formatDuration } from '@zetopsis/core/format';
import { Link } from 'react-router';
import { Diamond } from '../../drawing/Diamond.tsx';
import { mainOf } from '../../drawing/looked.ts';
import { lastName } from '../../drawing/names.ts';
import { RunningOutAxis } from '../../drawing/RunningOut.tsx';
import { runningOutWords, useWords } from '../../drawing/runningOutModel.ts';
import { Strip } from '../../drawing/Strip.tsx';
import { COUNTED } from '../../drawing/stripModel.ts';
import { TellMeOf } from '../../frame/ShowMeasure.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';
import { rowAmount, rowShare, sortRows } from './columnModel.ts';

export function Section({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section aria-label={title} className="border-b border-hair px-4 py-2">
      <h3 className="mb-1 text-xs">{title}</h3>
      {children}
    </section>
  );
}

export function Facts({ sheet }: { sheet: SheetAnswer }) {
  const now = useNow(60_000);
  const facts = [
    ...sheet.facts,
    ...(sheet.createdAt === null
      ? []
      : [
          {
            name: 'there since',
            text: `${formatClock(sheet.createdAt, now)} (${formatDuration(now - sheet.createdAt)})`,
          },
        ]),
  ];
  return (
    <Section title="What it is">
      <dl className="grid grid-cols-[130px_1fr] gap-y-0.5 text-sm">
        {facts.map((fact) => (
          <div key={fact.name} className="contents">
            <dt className="text-soft">{fact.name}</dt>
            <dd className={fact.as === 'code' ? 'font-mono text-xs break-all' : 'break-words'}>{fact.text}</dd>
          </div>
        ))}
      </dl>
    </Section>
  );
}

export function Nodes({ sheet }: { sheet: SheetAnswer }) {
  const { view, link } = useView();
  if (sheet.nodes.length === 0) return null;
  const resource = mainOf(view.resource);
  const rows = sortRows(sheet.nodes, resource, 'tightness');
  return (
    <Section title={`Nodes, ${resource === 'cpu' ? 'CPU' : 'memory'} against what they can give`}>
      <ul className="space-y-1 text-sm">
        {rows.map((row) => (
          <li key={row.key}>
            <div className="flex items-baseline gap-1.5">
              {row.severity && <Diamond severity={row.severity} size={9} />}
              <Link
                className="hover:text-petrol"
                title={row.finding ?? undefined}
                to={link('/usage', { path: [...sheet.path, row.key] })}
              >
                {row.name}
              </Link>
              <span className="text-xs text-soft">{formatCount(row.pods, 'pod')}</span>
              <span className="ml-auto">{rowAmount(row, resource)}</span>
              <span className="w-10 text-right text-xs text-soft">{rowShare(row, resource)}</span>
            </div>
            <Strip of={COUNTED[resource]} figures={row.usage[resource]} />
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** When what it has a limit of runs out. */
export function RunningOut({ sheet }: { sheet: SheetAnswer }) {
  const now = useNow();
  if (sheet.runningOut === null || sheet.runningOut.length === 0) return null;
  return (
    <section aria-label="running out" className="border-b border-hair px-4 py-2 text-sm">
      <h3 className="mb-1 text-xs">Running out</h3>
      <ul>
        {sheet.runningOut.map((line) => {
          return (
            <li key={`${line.path.join('/')} ${line.what}`} className="grid grid-cols-[1fr_150px] gap-2 py-0.5">
              <span className="min-w-0">
                {line.path.length > sheet.path.length && <span className="text-soft">{lastName(line.path)} </span>}
                {line.what}: {runningOutWords(line, now)}
                <span className="text-soft"> ({useWords(line)})</span>
              </span>
              <RunningOutAxis line={line} now={now} />
            </li>
          );
        })}
      </ul>
    </section>
  );
}

export function Containers({ sheet }: { sheet: SheetAnswer }) {
  if (sheet.containers.length === 0) return null;
  const [cluster, namespace] = sheet.path;
  const asked =
    sheet.level === 'pod' && sheet.endedAt === null && sheet.containers.some(({ ports }) => ports.length > 0);
  return (
    <Section title="Containers">
      {asked && (
        <Link
          className="button-plain mb-1 inline-block text-sm"
          to={`/sources/coverage?ask=${encodeURIComponent(`${cluster}/${namespace}/${sheet.name}`)}`}
        >
          what answers at its ports
        </Link>
      )}
      <ul className="space-y-1.5 text-sm">
        {sheet.containers.map((container) => (
          <li key={container.name}>
            <p>
              <b>{container.name}</b>{' '}
              <span className="text-soft">
                {container.role}
                {container.purpose !== null &&
                  container.purpose.purpose !== container.role &&
                  `, ${container.purpose.purpose}`}
              </span>{' '}
              · {container.state}
              {container.restarts > 0 && ` · ${container.restarts} restarts`}
              {container.ports.length > 0 && (
                <span className="text-soft">
                  {' '}
                  · {container.ports.length === 1 ? 'port' : 'ports'} {container.ports.join(', ')}
                </span>
              )}
            </p>
            {container.purpose !== null && container.purpose.purpose !== container.role && (
              <p className="text-soft">told by: {container.purpose.signs.join('; ')}</p>
            )}
            <p className="font-mono text-xs break-all text-soft">{container.image}</p>
            {container.lastEnd && <p className="text-soft">last end: {container.lastEnd}</p>}
          </li>
        ))}
      </ul>
    </Section>
  );
}

export function Events({ sheet }: { sheet: SheetAnswer }) {
  const now = useNow(60_000);
  return (
    <Section title="Events of the cluster">
      {sheet.eventsMissing !== null && <p className="text-sm text-soft">Events are not read: {sheet.eventsMissing}</p>}
      {sheet.eventsMissing === null && sheet.events.length === 0 && (
        <p className="text-sm text-soft">None in this window.</p>
      )}
      <ul className="space-y-1 text-sm">
        {sheet.events.map((event) => (
          <li key={`${event.at} ${event.reason} ${event.about}`} className="grid grid-cols-[44px_1fr] gap-2">
            <span className="text-soft">{formatClock(event.at, now)}</span>
            <span className="min-w-0 break-words">
              <b className="font-semibold">{event.reason}</b>
              {event.count > 1 && <span className="text-soft"> {event.count} times</span>} {event.message}{' '}
              <TellMeOf
                begin={{ of: 'event', reason: event.reason, path: sheet.path, name: sheet.name }}
                of={`the event ${event.reason}`}
              />
            </span>
          </li>
        ))}
      </ul>
    </Section>
  );
}
