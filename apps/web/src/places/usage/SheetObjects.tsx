import {
  type Figures,
  MACHINES,
  type QuotaLine,
  type RelatedLine,
  type SheetAnswer,
  type VolumeLine,
} from '@zetopsis/contract';
import { formatClock, formatDuration, formatPercent } from '@zetopsis/core/format';
import { Link } from 'react-router';
import { CutName } from '../../drawing/CutName.tsx';
import { Diamond } from '../../drawing/Diamond.tsx';
import { isMarkName, OwnMark } from '../../drawing/OwnMark.tsx';
import { Strip } from '../../drawing/Strip.tsx';
import { COUNTED, countedOf } from '../../drawing/stripModel.ts';
import { ForAdministrators } from '../../frame/ForAdministrators.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';
import { useSessionQuery } from '../../state/sessionApi.ts';
import { Section } from './SheetSections.tsx';
import { fullWords } from './sheetModel.ts';

/** What a quota allows against what is spent. */
export function Quotas({ sheet }: { sheet: SheetAnswer }) {
  const { link } = useView();
  return sheet.quotas.map((quota) => (
    <Section key={quota.name} title={`Quota ${quota.name}, spent of what it allows`}>
      <ul className="space-y-1 text-sm">
        {tightestFirst(quota).map(({ resource, hard, used }) => {
          const counted = countedOf(resource);
          return (
            <li key={resource}>
              <div className="flex items-baseline gap-1.5">
                <Link className="hover:text-petrol" to={link('/usage', { path: quota.path })}>
                  {resource}
                </Link>
                <span className="ml-auto">
                  {used === null ? 'not counted yet' : counted.amount(used)}{' '}
                  <span className="text-soft">of {counted.amount(hard)}</span>
                </span>
                <span className="w-10 text-right text-xs text-soft">
                  {used === null || hard === 0 ? '' : formatPercent(used / hard)}
                </span>
              </div>
              <Strip of={counted} figures={quotaFigures(used, hard)} />
            </li>
          );
        })}
      </ul>
    </Section>
  ));
}
const spentShare = ({ hard, used }: QuotaLine['rows'][number]): number =>
  used === null || hard === 0 ? -1 : used / hard;
const tightestFirst = ({ rows }: QuotaLine) => [...rows].sort((a, b) => spentShare(b) - spentShare(a));
const quotaFigures = (use: number | null, limit: number): Figures => ({
  use,
  mean: null,
  peak: null,
  request: null,
  limit,
  limitIs: 'quota',
  unlimited: null,
  tightness: use === null || limit === 0 ? null : use / limit,
  heading: null,
});

export function Volumes({ sheet }: { sheet: SheetAnswer }) {
  if (sheet.volumes.length === 0) return null;
  return (
    <Section title="Volumes, used of their size">
      <ul className="space-y-1 text-sm">
        {sheet.volumes.map((volume) => (
          <VolumeRow key={volume.path.join('/')} volume={volume} />
        ))}
      </ul>
    </Section>
  );
}
function VolumeRow({ volume }: { volume: VolumeLine }) {
  const { link } = useView();
  const { use, limit } = volume.figures;
  const full = fullWords(volume.fullIn);
  return (
    <li>
      <div className="flex items-baseline gap-1.5">
        <Link
          className="flex min-w-0 hover:text-petrol"
          to={link('/usage', { path: volume.path })}
          aria-label={volume.name}
          title={volume.name}
        >
          <CutName name={volume.name} />
        </Link>
        <span className="ml-auto shrink-0">
          {COUNTED.volume.amount(use)} <span className="text-soft">of {COUNTED.volume.amount(limit)}</span>
        </span>
        <span className="w-10 shrink-0 text-right text-xs text-soft">
          {use === null || limit === null ? '' : formatPercent(use / limit)}
        </span>
      </div>
      <Strip of={COUNTED.volume} figures={volume.figures} />
      {full !== null && <p className="text-xs">{full}</p>}
    </li>
  );
}

const OUTCOMES = { waiting: 'waits', running: 'runs', succeeded: 'done', failed: 'failed', suspended: 'suspended' };

/** Runs of a job or cron job, newest first, and when the next one is due. */
export function Runs({ sheet }: { sheet: SheetAnswer }) {
  const now = useNow();
  if (sheet.runs === null) return null;
  return (
    <Section title="Runs in this window">
      {sheet.nextDueAt !== null && (
        <p className="text-sm">
          next due {formatClock(sheet.nextDueAt, now)}
          {sheet.nextDueAt > now && <span className="text-soft"> (in {formatDuration(sheet.nextDueAt - now)})</span>}
        </p>
      )}
      {sheet.runs.length === 0 ? (
        <p className="text-sm text-soft">None. A longer window may hold some.</p>
      ) : (
        <table className="w-full text-sm">
          <thead>
            <tr className="text-left text-xs text-soft">
              {['began', 'took', 'outcome', 'tried again', 'end'].map((head) => (
                <th key={head} className="pr-2 font-medium">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {sheet.runs.map((run) => (
              <tr key={run.name} className="border-t border-hair align-baseline" title={run.name}>
                <td className="py-0.5 pr-2 whitespace-nowrap">
                  {run.startedAt === null ? 'not yet' : formatClock(run.startedAt, now)}
                </td>
                <td className="py-0.5 pr-2 whitespace-nowrap">
                  {run.startedAt === null ? '' : formatDuration((run.endedAt ?? now) - run.startedAt)}
                </td>
                <td className="py-0.5 pr-2 whitespace-nowrap">
                  {run.outcome === 'failed' ? (
                    <b>
                      <Diamond severity="critical" size={9} /> failed
                    </b>
                  ) : (
                    OUTCOMES[run.outcome]
                  )}
                </td>
                <td className="py-0.5 pr-2">{run.retries === 0 ? 'never' : `${run.retries} ×`}</td>
                <td className="py-0.5 text-soft">{run.end ?? 'not told'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </Section>
  );
}

/** From names that are not ours to where they are mapped. */
function MapThem() {
  const { data: session } = useSessionQuery();
  return session?.person?.role === 'administrator' ? (
    <p className="mb-1 text-sm">
      <Link className="button-plain" to={`/sources/vitals?vitals=${encodeURIComponent(MACHINES)}`}>
        map them to what it uses
      </Link>
    </p>
  ) : (
    <ForAdministrators what="Mapping them is" />
  );
}
export function Tables({ sheet }: { sheet: SheetAnswer }) {
  return sheet.tables.map(({ title, columns, rows, mappable }) => (
    <Section key={title} title={title}>
      {mappable === true && <MapThem />}
      {rows.length === 0 ? (
        <p className="text-sm text-soft">None.</p>
      ) : (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard
        <div className="max-h-72 overflow-auto" tabIndex={0}>
          <table className="w-full text-sm">
            <thead>
              <tr className="text-left text-xs text-soft">
                {columns.map((column) => (
                  <th key={column} className="pr-2 font-medium">
                    {column}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.join(' ')} className="border-t border-hair align-baseline">
                  {row.map((cell, i) => (
                    <td
                      key={columns[i]}
                      className={`py-0.5 pr-2 ${i === 0 ? 'min-w-32 break-all' : 'whitespace-nowrap'}`}
                    >
                      {cell}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Section>
  ));
}

const GROUPS: readonly (readonly [string, string])[] = [
  ['service', 'Services'],
  ['autoscaler', 'Autoscalers'],
  ['disruption budget', 'Disruption budgets'],
  ['limit range', 'Limit ranges'],
  ['volume claim', 'Volume claims'],
  ['persistent volume', 'Persistent volumes'],
  ['config map', 'Config maps'],
  ['secret', 'Secrets'],
  ['node', 'Node'],
  ['replica set', 'Replica sets'],
  ['deployment', 'Deployment'],
];

/** What else belongs to it or is used by it, by kind; each leads to its own sheet. */
export function Related({ sheet }: { sheet: SheetAnswer }) {
  if (sheet.related.length === 0) return null;
  const known = new Set(GROUPS.map(([kind]) => kind));
  const groups = [
    ...GROUPS.map(([kind, title]) => ({ title, lines: sheet.related.filter((line) => line.kind === kind) })),
    { title: 'Workloads and pods', lines: sheet.related.filter(({ kind }) => !known.has(kind)) },
  ].filter(({ lines }) => lines.length > 0);
  return (
    <>
      {groups.map(({ title, lines }) => (
        <Section key={title} title={title}>
          <ul className="text-sm">
            {lines.map((line) => (
              <RelatedRow key={line.path.join('/')} line={line} />
            ))}
          </ul>
        </Section>
      ))}
      {sheet.left > 0 && <p className="px-4 py-2 text-sm text-soft">{sheet.left} more are not shown here.</p>}
    </>
  );
}
function RelatedRow({ line }: { line: RelatedLine }) {
  const { link } = useView();
  return (
    <li className="flex items-baseline gap-2 py-0.5">
      <span className="self-center">
        <OwnMark name={isMarkName(line.kind) ? line.kind : 'other'} size={13} label={line.kind} />
      </span>
      {line.severity && <Diamond severity={line.severity} size={9} />}
      <Link
        className="flex min-w-24 flex-1 hover:text-petrol"
        to={link('/usage', { path: line.path })}
        aria-label={line.name}
        title={line.name}
      >
        <CutName name={line.name} />
      </Link>
      <span className="ml-auto max-w-[58%] text-right text-xs text-soft">{line.words}</span>
    </li>
  );
}
