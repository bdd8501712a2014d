import type { LinkChange, MapAnswer, MapLink } from '@zetopsis/contract';

/** How far apart two windows have to be before it is worth a word. */
const RATE = { times: 1.5, least: 0.1 } as const;
const SHARE = 0.02;
const LENGTH = { times: 1.5, least: 0.02 } as const;
type Then = NonNullable<MapLink['was']>;

/** Of requests; where only bytes are counted, of kilobytes. */
const rateOf = ({ sent, received, bytes }: Pick<MapLink, 'sent' | 'received' | 'bytes'>): number =>
  sent ?? received ?? (bytes ?? 0) / 1024;
const thenOf = (link: MapLink): Then => ({
  rate: rateOf(link),
  failureShare: link.failureShare,
  p95: link.callerP95 ?? link.answererP95,
});
const apart = (now: number, then: number, { times, least }: { readonly times: number; readonly least: number }) =>
  now > times * then && now > then + least;

/** What changed most of a link, the gravest first; null: nothing worth a word. */
export function changeOf(now: Then | null, then: Then | null): LinkChange | null {
  if (now === null || now.rate === 0) return then !== null && then.rate > 0 ? 'gone' : null;
  if (then === null || then.rate === 0) return 'new';
  if (now.failureShare !== null && then.failureShare !== null) {
    if (now.failureShare > then.failureShare + SHARE) return 'fails more';
    if (then.failureShare > now.failureShare + SHARE) return 'fails less';
  }
  if (now.p95 !== null && then.p95 !== null) {
    if (apart(now.p95, then.p95, LENGTH)) return 'slower';
    if (apart(then.p95, now.p95, LENGTH)) return 'quicker';
  }
  if (apart(now.rate, then.rate, RATE)) return 'more';
  return apart(then.rate, now.rate, RATE) ? 'less' : null;
}

/** The map of a moment beside that of another one: each link with what it was then, and those that are no more. */
export function mapDifference(now: MapAnswer, then: MapAnswer): MapAnswer {
  const before = new Map(then.links.map((link) => [link.key, link]));
  const links = now.links.map((link): MapLink => {
    const was = before.get(link.key);
    before.delete(link.key);
    const own = was ? thenOf(was) : null;
    return { ...link, was: own, change: changeOf(thenOf(link), own) };
  });
  const gone = [...before.values()]
    .filter((link) => rateOf(link) > 0)
    .map(
      (link): MapLink => ({
        ...link,
        state: null,
        now: 0,
        usual: null,
        since: null,
        sent: link.sent === null ? null : 0,
        received: link.received === null ? null : 0,
        bytes: link.bytes === null ? null : 0,
        connections: null,
        uncertainShare: null,
        failureShare: null,
        refusedShare: null,
        callerP95: null,
        answererP95: null,
        ownShare: null,
        seenShare: null,
        isNew: false,
        course: link.course.map(() => null),
        was: thenOf(link),
        change: 'gone',
      }),
    );
  const known = new Set(now.boxes.map(({ key }) => key));
  const ends = new Set(gone.flatMap(({ from, to }) => [from, to]));
  return {
    ...now,
    comparedAt: then.at,
    boxes: [...now.boxes, ...then.boxes.filter(({ key }) => ends.has(key) && !known.has(key))],
    links: [...links, ...gone],
    nothing: links.length + gone.length > 0 ? null : now.nothing,
  };
}
