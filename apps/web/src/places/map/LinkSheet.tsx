import type { MapAnswer, MapBox, MapLink, Mark } from '@zetopsis/contract';
import { formatClock, formatLatency, formatPercent, formatRate } from '@zetopsis/core/format';
import { Link } from 'react-router';
import { bytesWords, changeWords, linkWords, SIDE_WORDS } from '../../drawing/linkWords.ts';
import { Trace } from '../../drawing/Trace.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useView, viewed } from '../../frame/useView.ts';
import { useTapeQuery } from '../../state/usageApi.ts';
import { LinkCourses } from './LinkCourse.tsx';
import { LinkTraces } from './LinkTraces.tsx';

interface Props {
  readonly answer: MapAnswer;
  readonly link: MapLink;
  readonly pick: (key: string) => void;
  readonly close: () => void;
}

/** One link: both ends, what goes over it as both sides see it, what is the matter and why. */
export function LinkSheet({ answer, link, pick, close }: Props) {
  const now = useNow(60_000);
  const { link: leadTo } = useView();
  const box = (key: string) => answer.boxes.find((one) => one.key === key);
  const [from, to] = [box(link.from), box(link.to)];
  const trouble = answer.trouble.find((one) => one.link === link.key || one.inside.includes(link.key));
  const root = answer.links.find(({ key }) => key === trouble?.link);
  const others = answer.links.filter((one) => one.to === link.to && one.key !== link.key);
  const onward = answer.links.filter((one) => one.from === link.to);
  const name = (key: string) => box(key)?.name ?? key;
  const marks = useMarksAt([from, to]);
  const asked = link.sent !== null || link.received !== null;
  const named = ![from, to].some((one) => one === undefined || one.kind === 'notYours');
  return (
    <aside
      aria-label="link"
      className="w-[380px] shrink-0 overflow-y-auto border-l border-line bg-sheet px-5 py-4 text-sm"
    >
      <div className="mb-2 flex items-start gap-2">
        <h2 className="text-lg">
          {name(link.from)} <span className="text-soft">calls</span> {name(link.to)}
        </h2>
        <button type="button" className="button-plain ml-auto" onClick={close}>
          close
        </button>
      </div>
      <p className="mb-2 text-soft">
        {[...(asked && link.protocols.length === 0 ? ['how is not told'] : link.protocols), seenWords(link)].join(
          ' · ',
        )}
      </p>
      {link.state !== null && (
        <section aria-label="what is the matter" className="mb-3 border-l-2 border-critical pl-2">
          <p>
            <b>{link.state}</b>: {linkWords(link)}
            {link.since !== null && `, since ${formatClock(link.since, now)}`}
          </p>
          {trouble && trouble.link === link.key && (
            <>
              <p>
                Likely <b>{SIDE_WORDS[trouble.side]}</b>:
              </p>
              <ul className="list-disc pl-4">
                {trouble.evidence.map((words) => (
                  <li key={words}>{words}</li>
                ))}
                {trouble.people !== null && trouble.people > 0 && (
                  <li>{formatPercent(trouble.people)} of what people asked for lately went over it</li>
                )}
              </ul>
            </>
          )}
          {[from, to].map((one) =>
            one?.besides ? (
              <p key={one.key}>
                Found at <b>{one.name}</b>: {one.besides}
              </p>
            ) : null,
          )}
          {root && root.key !== link.key && (
            <p>
              Told with{' '}
              <button type="button" className="button-plain" onClick={() => pick(root.key)}>
                {name(root.from)} calls {name(root.to)} ({root.state})
              </button>
            </p>
          )}
        </section>
      )}
      {link.blindSince !== null && (
        <p className="mb-3 border-l-2 border-line pl-2">
          <b>blind</b>: nothing is told by the programs of its cluster since {formatClock(link.blindSince, now)}.
          Whether it carries anything is not known; who sends and who does not is told in{' '}
          <Link className="button-plain" to={leadTo('/sources')}>
            Sources
          </Link>
          .
        </p>
      )}
      {link.change !== null && (
        <p className="mb-3">
          <b>{link.change}</b>: {changeWords(link)}
        </p>
      )}
      <table className="mb-3 w-full">
        <thead>
          <tr className="text-left text-soft">
            <th className="font-normal">
              <span className="sr-only">figure</span>
            </th>
            <th className="font-normal">caller</th>
            <th className="font-normal">answerer</th>
          </tr>
        </thead>
        <tbody>
          {asked && (
            <>
              <Row name="requests" values={[link.sent, link.received].map((one) => told(one, formatRate))} />
              <Row
                name="95 of 100 within"
                values={[link.callerP95, link.answererP95].map((one) => told(one, formatLatency))}
              />
              <Row name="failed" values={ofBest(link, told(link.failureShare, formatPercent))} />
              <Row name="refused" values={ofBest(link, told(link.refusedShare, formatPercent))} />
              <Row name="its own time" values={['', told(link.ownShare, formatPercent)]} />
            </>
          )}
          {link.bytes !== null && <Row name="bytes, both ways" values={[bytesWords(link.bytes), '']} />}
          {link.uncertainShare !== null && link.uncertainShare > 0 && (
            <Row
              name="uncertain"
              values={[
                `${formatPercent(link.uncertainShare)} of them: an address came to another workload meanwhile`,
                '',
              ]}
            />
          )}
          {link.connections !== null && <Row name="connections" values={[String(link.connections), '']} />}
        </tbody>
      </table>
      {named && asked ? (
        <LinkCourses link={link} marks={marks} />
      ) : (
        <>
          <p className="text-soft">
            {link.by === 'bytes'
              ? 'bytes a minute, the last hour'
              : 'requests a minute, the last hour; the window is told of links whose ends are both yours'}
          </p>
          <Trace values={link.course} height={40} />
        </>
      )}
      {named && asked && <LinkTraces link={link} />}
      <ChangedAtEnds marks={marks} />
      <Ends box={from} what="the caller" />
      <Ends box={to} what="the answerer" />
      <Calls title="who else calls it" links={others} name={(one) => name(one.from)} pick={pick} />
      <Calls title="what it calls itself" links={onward} name={(one) => name(one.to)} pick={pick} />
    </aside>
  );
}
const told = (value: number | null, format: (value: number) => string): string =>
  value === null ? 'not told' : format(value);
/** As the caller saw it, where it tells anything. */
const ofBest = ({ sent }: MapLink, words: string): readonly string[] => (sent === null ? ['', words] : [words, '']);
/** From where it is known, and how much of it was seen. */
function seenWords({ sent, received, bytes, seenShare }: MapLink): string {
  if (sent === null && received === null) return 'counted on the network, by address';
  const ends =
    sent !== null && received !== null
      ? 'of both ends'
      : sent !== null
        ? 'of the caller alone'
        : 'of the answerer alone';
  const some = seenShare === null || seenShare > 0.99 ? '' : `, scaled up from 1 in ${Math.round(1 / seenShare)}`;
  return `from spans ${ends}${some}${bytes === null ? '' : ', and counted on the network'}`;
}
function Row({ name, values }: { name: string; values: readonly string[] }) {
  return (
    <tr className="border-t border-hair">
      <th className="py-0.5 text-left font-normal text-soft">{name}</th>
      {values.map((value, i) => (
        // two sides, always in this order
        <td key={i === 0 ? 'caller' : 'answerer'}>{value}</td>
      ))}
    </tr>
  );
}
/** What happened at both ends in the window: asked of each, since they may stand in different clusters. */
function useMarksAt(boxes: readonly (MapBox | undefined)[]): readonly Mark[] {
  const { view } = useView();
  const asked = viewed(view);
  const [from, to] = boxes.map((box) => box?.path ?? null);
  const ofCaller = useTapeQuery({ ...asked, path: from ?? [] }, { skip: from == null });
  const ofAnswerer = useTapeQuery({ ...asked, path: to ?? [] }, { skip: to == null });
  const all = [...(ofCaller.data?.marks ?? []), ...(ofAnswerer.data?.marks ?? [])];
  const keys = new Set<string>();
  return all
    .filter((mark) => {
      const key = `${mark.at} ${mark.title} ${mark.path.join('/')}`;
      return !keys.has(key) && keys.add(key);
    })
    .sort((a, b) => b.at - a.at);
}
const MOST_MARKS = 6;
function ChangedAtEnds({ marks }: { marks: readonly Mark[] }) {
  const now = useNow(60_000);
  if (marks.length === 0) return null;
  return (
    <section aria-label="what happened at its ends" className="mb-3">
      <h3 className="text-soft">at its ends</h3>
      <ul>
        {marks.slice(0, MOST_MARKS).map((mark) => (
          <li key={`${mark.at} ${mark.title}`} className="flex gap-2 border-t border-hair">
            <span className="shrink-0 text-soft">{formatClock(mark.at, now)}</span>
            <span>{mark.title}</span>
          </li>
        ))}
      </ul>
      {marks.length > MOST_MARKS && <p className="text-soft">{marks.length - MOST_MARKS} more on the tape</p>}
    </section>
  );
}
function Ends({ box, what }: { box: MapBox | undefined; what: string }) {
  const { link } = useView();
  if (!box?.path) return null;
  return (
    <p className="mt-1">
      {what}:{' '}
      <Link className="button-plain" to={link('/usage', { path: box.path, sheet: true, clusters: null })}>
        {box.namespace} / {box.name}
      </Link>
      {box.team !== null && <span className="text-soft"> of {box.team}</span>}
    </p>
  );
}
function Calls({
  title,
  links,
  name,
  pick,
}: {
  title: string;
  links: readonly MapLink[];
  name: (link: MapLink) => string;
  pick: (key: string) => void;
}) {
  if (links.length === 0) return null;
  return (
    <section aria-label={title} className="mt-3">
      <h3 className="text-soft">{title}</h3>
      <ul>
        {links.map((one) => (
          <li key={one.key} className="flex gap-2 border-t border-hair">
            <button type="button" className="button-plain" onClick={() => pick(one.key)}>
              {name(one)}
            </button>
            <span className="ml-auto">
              {one.state !== null && <b>{one.state} </b>}
              {linkWords(one)}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
