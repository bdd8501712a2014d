import { EVERYTHING, type NowAnswer, placeOf, readPath } from '@zetopsis/contract';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { Link } from 'react-router';
import { Diamond } from '../../drawing/Diamond.tsx';
import { pathWords } from '../../drawing/names.ts';
import { OwnMark } from '../../drawing/OwnMark.tsx';
import { RunningOutAxis, RunningOutScale } from '../../drawing/RunningOut.tsx';
import { runningOutWords, shortWords, useWords } from '../../drawing/runningOutModel.ts';
import { FailureNote, RowSkeleton, StateNote } from '../../drawing/StateNote.tsx';
import { toldWords } from '../../drawing/told.ts';
import { ConnectOne } from '../../frame/ConnectOne.tsx';
import { addressOf } from '../../frame/TapeMark.tsx';
import { useNow } from '../../frame/useNow.ts';
import { queried, useView } from '../../frame/useView.ts';
import { useNowQuery } from '../../state/nowApi.ts';
import { TightestList } from '../usage/TightestList.tsx';
import { failingWithoutAlert, sortAlerts } from './nowModel.ts';
import { TakeAlert } from './TakeAlert.tsx';

/** What needs me? */
export function NowPlace() {
  const { view } = useView();
  const { data, error, refetch } = useNowQuery(queried(view));
  if (!data) {
    return (
      <div className="h-full overflow-auto p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={6} height={72} />}
      </div>
    );
  }
  if (data.connections === 0) {
    return (
      <div className="p-5">
        <StateNote title="No cluster is connected yet">
          <p>Zetopsis shows what needs somebody once it reads a cluster.</p>
          <ConnectOne />
        </StateNote>
      </div>
    );
  }
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_minmax(360px,34%)]">
      <div className="overflow-auto px-5 py-4">
        <Alerts data={data} />
        <Failing data={data} />
      </div>
      <div className="overflow-auto border-l border-line bg-sheet px-[18px] py-4">
        <RunningOut data={data} />
        <section aria-label="tightest" className="mb-6">
          <Title name="Tightest" note="nearest to a limit, 95 % of the window" />
          <TightestList tightest={data.tightest} />
        </section>
        <Changed data={data} />
        <BlindSpots data={data} />
      </div>
    </div>
  );
}

function Title({ name, note }: { name: string; note: string }) {
  return (
    <div className="mb-2 flex items-baseline gap-2.5">
      <h2 className="section-title">{name}</h2>
      <p className="text-sm text-soft">{note}</p>
    </div>
  );
}

function Alerts({ data }: { data: NowAnswer }) {
  const { link } = useView();
  const now = useNow();
  const alerts = sortAlerts(data.alerts);
  return (
    <section aria-label="needs you" aria-live="polite">
      <Title name="Needs you" note={alerts.length === 0 ? '' : `${alerts.length} open`} />
      {alerts.length === 0 && <p className="mb-6 border border-line bg-sheet px-4 py-4">Nothing is raised.</p>}
      <ul className="mb-6 space-y-2">
        {alerts.map((alert) => (
          <li key={alert.id} className="flex gap-3.5 border border-line bg-sheet px-4 py-2.5">
            <span className="pt-0.5">
              <Diamond severity={alert.severity} size={13} />
            </span>
            <div className="min-w-0 flex-1">
              <h3 className="text-[15px] leading-snug">
                <Link
                  className="hover:text-petrol"
                  to={
                    // what stands nowhere is looked at where it is judged
                    alert.path.length === 0
                      ? link(`/rules/${alert.ruleKey}`, {})
                      : link('/usage', { path: alert.path, sheet: true })
                  }
                >
                  {alert.title}
                </Link>
              </h3>
              <p className="mt-0.5 break-words">{alert.reason}</p>
              {alert.changed && (
                <p className="mt-0.5">
                  <span className="text-soft">changed just before: </span>
                  {alert.changed}
                </p>
              )}
              <p className="mt-0.5 text-sm text-soft">
                {[
                  `since ${formatClock(alert.since, now)}`,
                  pathWords(alert.path.slice(0, 3)),
                  [alert.value, alert.limit.split(';')[0]].filter(Boolean).join(' of '),
                ]
                  .filter(Boolean)
                  .join(' · ')}
              </p>
              <TakeAlert alert={alert} now={now} />
            </div>
            <div className="w-40 shrink-0 text-right text-sm text-soft">
              <p>
                <b className="text-ink">{alert.team ?? 'no owner'}</b> · {formatDuration(now - alert.since)}
              </p>
              <p className="mt-1 break-words">{toldWords(alert)}</p>
              {alert.unseenSince !== null && (
                <p className="mt-1 text-ink">unseen for {formatDuration(now - alert.unseenSince)}</p>
              )}
              {alert.easingSince !== null && (
                <p className="mt-1 text-ink">easing for {formatDuration(now - alert.easingSince)}</p>
              )}
            </div>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Failing({ data }: { data: NowAnswer }) {
  const { link } = useView();
  const now = data.at;
  const failing = failingWithoutAlert(data);
  const covered = data.failing.length - failing.length;
  const note = covered > 0 ? `${covered} more told above` : 'what does not do what was asked of it';
  return (
    <section aria-label="failing">
      <Title name="Failing" note={note} />
      {failing.length === 0 && (
        <p className="text-soft">{covered > 0 ? 'Nothing besides.' : 'Everything does what was asked of it.'}</p>
      )}
      <ul>
        {failing.map(({ path, finding, team, criticality, more }) => (
          <li key={path.join('/')} className="flex items-baseline gap-3 border-b border-hair py-1.5">
            <Diamond severity={finding.severity} size={10} />
            <Link className="shrink-0 font-semibold hover:text-petrol" to={link('/usage', { path })}>
              {pathWords(path, 1) || path[0]}
            </Link>
            <span className="min-w-0 flex-1">
              {finding.reason}
              {more > 0 && <span className="text-soft"> and {more} more</span>}
            </span>
            <span className="w-48 shrink-0 text-right text-sm text-soft">
              {criticality !== 'ordinary' && (
                <>
                  <span title="how much hangs on it">{criticality} place</span> ·{' '}
                </>
              )}
              <b className="text-ink">{team ?? ''}</b>
              {finding.since !== null && (
                <span className="whitespace-nowrap" title={`since ${formatClock(finding.since, now)}`}>
                  {team === null ? '' : ' · '}
                  {formatDuration(now - finding.since)}
                </span>
              )}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function RunningOut({ data }: { data: NowAnswer }) {
  const { link } = useView();
  const { runningOut } = data;
  if (runningOut === null) return null;
  const { lines, later, unknown } = runningOut;
  const rest = [later > 0 ? `${later} not in sight` : '', unknown > 0 ? `${unknown} too young to say` : ''].filter(
    (words) => words !== '',
  );
  return (
    <section aria-label="running out" className="mb-6">
      <Title name="Running out" note="as it has gone on; the box holds 8 of 10 cases" />
      {lines.length === 0 && (
        <p className="text-soft">Nothing runs out within 90 days, as far as the histories tell.</p>
      )}
      <ul>
        {lines.map((line) => (
          <li key={`${line.path.join('/')} ${line.what}`} className="border-b border-hair py-1.5">
            <Link
              to={link('/usage', { path: line.path, sheet: true })}
              className="block hover:text-petrol"
              title={runningOutWords(line, data.at)}
            >
              <div className="flex items-baseline gap-2">
                <span className="truncate">{pathWords(line.path.slice(0, 3), line.path.length > 1 ? 1 : 0)}</span>
                <span className="shrink-0 text-sm text-soft">{line.what}</span>
                <b className="ml-auto shrink-0">{shortWords(line, data.at)}</b>
              </div>
              <div className="flex items-center justify-between gap-2 text-sm text-soft">
                <span className="truncate">{useWords(line)}</span>
                <RunningOutAxis line={line} now={data.at} />
              </div>
            </Link>
          </li>
        ))}
      </ul>
      {lines.length > 0 && <RunningOutScale className="mt-0.5 ml-auto" />}
      {rest.length > 0 && <p className="mt-1 text-sm text-soft">{rest.join(' · ')}</p>}
    </section>
  );
}

/** Its namespace; of what all share, its cluster. */
function placeWords(parts: readonly string[]): string {
  const { cluster, namespace } = placeOf(readPath(parts) ?? EVERYTHING);
  return namespace ?? cluster ?? '';
}

function Changed({ data }: { data: NowAnswer }) {
  const { link } = useView();
  return (
    <section aria-label="changed in this window" className="mb-6">
      <Title name="Changed in this window" note="" />
      {data.changed.length === 0 && <p className="text-soft">No rollout, no restart, no change of settings.</p>}
      <ul>
        {data.changed.map((mark) => (
          <li key={`${mark.at} ${mark.title}`} className="flex items-center gap-2.5 border-b border-hair py-1.5">
            <span className="w-12 shrink-0 whitespace-nowrap text-soft">{formatClock(mark.at, data.at)}</span>
            <OwnMark name={mark.kind} />
            <Link to={addressOf(mark, link)} className="min-w-0 flex-1 hover:text-petrol">
              {mark.title}
            </Link>
            <span className="shrink-0 text-sm text-soft">{placeWords(mark.path)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function BlindSpots({ data }: { data: NowAnswer }) {
  const { view, link } = useView();
  const now = useNow();
  return (
    <section aria-label="blind spots">
      <Title
        name="Blind spots"
        note={
          'length' in view.window
            ? data.endpoints.all === 0
              ? ''
              : `${data.endpoints.read} of ${data.endpoints.all} endpoints read`
            : 'at that time'
        }
      />
      {data.blind.length === 0 && (
        <p className="text-soft">{data.connections === 0 ? 'No source is connected yet.' : 'Every source delivers.'}</p>
      )}
      <ul>
        {data.blind.map((spot) => (
          <li key={`${spot.what} ${spot.reason}`} className="border-b border-hair py-1.5">
            <div className="flex items-baseline gap-2">
              <span className="hatched inline-block h-3 w-3 shrink-0 border border-structure" aria-hidden="true" />
              <Link className="font-semibold hover:text-petrol" to={link('/sources')}>
                {spot.what}
              </Link>
              <span className="ml-auto shrink-0 text-sm text-soft">for {formatDuration(now - spot.since)}</span>
            </div>
            <p className="break-words">{spot.reason}</p>
          </li>
        ))}
      </ul>
    </section>
  );
}
