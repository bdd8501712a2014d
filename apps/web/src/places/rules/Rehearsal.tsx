import type { RehearsalAnswer } from '@zetopsis/contract';
import { formatClock, formatCount, formatDuration } from '@zetopsis/core/format';
import { valueWords } from '@zetopsis/core/measures';
import { DAY, MINUTE } from '@zetopsis/core/units';
import { clsx } from 'clsx';
import { Link } from 'react-router';
import { Diamond } from '../../drawing/Diamond.tsx';
import { pathWords } from '../../drawing/names.ts';
import { TableHead } from '../../drawing/TableHead.tsx';
import { useView } from '../../frame/useView.ts';
import { RehearsedLines } from './RehearsedLines.tsx';
import { leadWords, missedWords, perWeek, timelineOf } from './rehearsalModel.ts';

interface Props {
  readonly answer: RehearsalAnswer;
  /** The number of the lowest level, as the rule has it; null where it compares with none. */
  readonly bound: number | null;
  /** Another number is chosen on the curve. */
  readonly choose: (bound: number) => void;
}

/** What a rule would have done: in sum, over time, by other thresholds, and each alert. */
export function Rehearsal({ answer, bound, choose }: Props) {
  const { messages, raised, left, notes, step, objects } = answer;
  const span = answer.to - answer.from;
  const alerts = raised.length + left;
  return (
    <section aria-label="rehearsal">
      <p className="mb-1">
        Over the last <b>{formatDuration(span)}</b>, judged every {formatDuration(step)} on{' '}
        {formatCount(objects, 'object')}:{' '}
        {alerts === 0 ? (
          <b>nothing would have been raised.</b>
        ) : (
          <>
            <b>{formatCount(alerts, 'alert')}</b> ({perWeek(alerts, span)} a week), raised for{' '}
            {formatDuration(answer.raisedMinutes * MINUTE)} in all
            {answer.flapping > 0 && <>, {formatCount(answer.flapping, 'time')} back within an hour</>}.
          </>
        )}
      </p>
      {alerts > 0 && (
        <p className="mb-2">
          <b>{formatCount(messages.all, 'message')}</b>, {messages.nights} of them at night
          {messages.byTeam.length > 0 && (
            <span className="text-soft">
              {' '}
              ·{' '}
              {messages.byTeam
                .map(({ team, all, nights }) => `${team} ${all}${nights > 0 ? ` (${nights} at night)` : ''}`)
                .join(', ')}
            </span>
          )}
          {messages.unowned > 0 && <span className="text-soft"> · {messages.unowned} more to nobody: no owner</span>}
        </p>
      )}
      {notes.map((note) => (
        <p key={note} className="text-sm text-soft">
          {note}
        </p>
      ))}
      {answer.curve.length > 1 && bound !== null && <Curve answer={answer} bound={bound} choose={choose} />}
      {bound !== null && <RehearsedLines answer={answer} bound={bound} />}
      <Troubles answer={answer} />
      <Timeline answer={answer} />
      <Raised answer={answer} />
    </section>
  );
}

/** Alerts a week by threshold; the thumb below chooses another. */
function Curve({ answer: { curve, from, to, unit, shownAs, troubles }, bound, choose }: Props & { bound: number }) {
  const weekly = curve.map(({ raised }) => (raised * 7 * DAY) / Math.max(1, to - from));
  const most = Math.max(1, ...weekly);
  const chosen = curve.reduce(
    (best, one, i) => (Math.abs(one.bound - bound) < Math.abs(curve[best]!.bound - bound) ? i : best),
    0,
  );
  const words = (value: number) => valueWords(value, unit ?? '', shownAs);
  const own = curve[chosen]!;
  return (
    <figure aria-label="alerts a week by threshold" className="my-3">
      <figcaption className="mb-1 text-sm">
        <b>By threshold</b>: at <b>{words(own.bound)}</b> {perWeek(own.raised, to - from)} alerts a week
        {own.raised > 0 && `, raised for ${formatDuration(own.raisedMinutes * MINUTE)} in all`}
        {troubles.length > 0 && `, ${own.missed} of ${formatCount(troubles.length, 'trouble')} missed`}
      </figcaption>
      <div className="flex h-20 items-end gap-px border-b border-structure" aria-hidden="true">
        {curve.map((point, i) => (
          <span
            key={point.bound}
            className={clsx('min-w-0 flex-1', i === chosen ? 'bg-petrol' : 'bg-[var(--fill-2)]')}
            style={{ height: `${Math.max(weekly[i]! === 0 ? 0 : 2, (weekly[i]! / most) * 100)}%` }}
            title={`${words(point.bound)}: ${perWeek(point.raised, to - from)} a week`}
          />
        ))}
      </div>
      <input
        type="range"
        className="w-full"
        aria-label="threshold"
        aria-valuetext={`${words(own.bound)}: ${perWeek(own.raised, to - from)} alerts a week`}
        min={0}
        max={curve.length - 1}
        value={chosen}
        onChange={({ target }) => choose(curve[Number(target.value)]!.bound)}
      />
      <p className="flex justify-between text-[11px] text-soft">
        <span>{words(curve[0]!.bound)}</span>
        <span>{words(curve.at(-1)!.bound)}</span>
      </p>
    </figure>
  );
}

const MOST_TROUBLES = 8;
/** What really was trouble then, and whether the rule would have told of it. */
function Troubles({ answer: { troubles, to } }: { answer: RehearsalAnswer }) {
  const { link } = useView();
  if (troubles.length === 0) return null;
  return (
    <section aria-label="trouble at that time" className="my-3 text-sm">
      <h4 className="font-semibold">Trouble at that time: {missedWords({ troubles })} would have been missed</h4>
      <ul>
        {troubles.slice(0, MOST_TROUBLES).map((one) => (
          <li key={`${one.title} ${one.from}`} className="flex gap-3 border-b border-hair py-0.5">
            <span className="w-24 shrink-0 text-soft">{formatClock(one.from, to)}</span>
            <Link
              className="min-w-0 flex-1 truncate hover:text-petrol"
              to={link('/usage', {
                path: one.path,
                window: { from: one.from - 30 * MINUTE, to: Math.min(to, one.to + 10 * MINUTE) },
              })}
            >
              {one.title}
            </Link>
            <span className={clsx('shrink-0', one.lead === null && 'text-critical')}>{leadWords(one.lead)}</span>
          </li>
        ))}
      </ul>
      {troubles.length > MOST_TROUBLES && <p className="text-soft">and {troubles.length - MOST_TROUBLES} more</p>}
    </section>
  );
}

/** When which object would have been raised. */
function Timeline({ answer }: { answer: RehearsalAnswer }) {
  const rows = timelineOf(answer);
  if (rows.length === 0) return null;
  return (
    <figure aria-label="when it would have been raised" className="my-3">
      {rows.map(({ name, bars }) => (
        <div key={name} className="flex items-center gap-2 border-b border-hair text-xs">
          <span className="w-44 shrink-0 truncate" title={name}>
            {name}
          </span>
          <span className="relative h-4 flex-1">
            {bars.map(({ left, width, severity, words }) => (
              <span
                key={left}
                className={clsx(
                  'absolute inset-y-1 min-w-[2px]',
                  severity === 'critical' ? 'bg-critical' : 'bg-warning',
                )}
                style={{ left: `${left}%`, width: `${width}%` }}
                title={words}
              />
            ))}
          </span>
        </div>
      ))}
      <p className="ml-[184px] flex justify-between text-[11px] text-soft">
        <span>{formatClock(answer.from, answer.to)}</span>
        <span>{formatClock(answer.to, answer.to)}</span>
      </p>
    </figure>
  );
}

const SHOWN = 50;
function Raised({ answer: { raised, left, to } }: { answer: RehearsalAnswer }) {
  const { link } = useView();
  if (raised.length === 0) return null;
  const more = raised.length + left - SHOWN;
  return (
    <table className="w-full text-sm" aria-label="what would have been raised">
      <TableHead of={['', 'what', 'from', 'for', 'farthest', 'told']} />
      <tbody>
        {raised.slice(0, SHOWN).map((one) => (
          <tr key={`${one.name} ${one.raisedAt}`} className="border-b border-hair align-baseline">
            <td className="py-1 pr-2">
              <Diamond severity={one.severity} size={9} />
            </td>
            <td className="py-1 pr-3">
              <Link
                className="hover:text-petrol"
                to={link('/usage', {
                  path: one.path,
                  window: { from: one.since - 30 * MINUTE, to: Math.min(to, (one.endedAt ?? to) + 10 * MINUTE) },
                })}
              >
                {one.name}
              </Link>
              <span className="text-soft"> {pathWords(one.path.slice(0, 2))}</span>
            </td>
            <td className="py-1 pr-3 whitespace-nowrap">{formatClock(one.raisedAt, to)}</td>
            <td className="py-1 pr-3 whitespace-nowrap">
              {one.endedAt === null
                ? `still, ${formatDuration(to - one.raisedAt)}`
                : formatDuration(one.endedAt - one.raisedAt)}
            </td>
            <td className="py-1 pr-3 whitespace-nowrap">{one.most}</td>
            <td className="py-1 text-soft">{one.team ?? 'nobody'}</td>
          </tr>
        ))}
      </tbody>
      {more > 0 && (
        <tfoot>
          <tr>
            <td colSpan={6} className="py-1 text-soft">
              and {more} more
            </td>
          </tr>
        </tfoot>
      )}
    </table>
  );
}
