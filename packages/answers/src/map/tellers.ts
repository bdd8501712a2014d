import { type EpochMs, MINUTE } from '@zetopsis/core/units';
import { lastInDay } from './day.ts';
import { eachMinute, MINUTES, type ReadLine, type ReadLinks } from './read.ts';

/** Who tells of links: the programs of a cluster, or its machines. */
export interface Teller {
  /** Minutes of which it told anything. */
  readonly told: Uint8Array;
  /** From this minute of the course on nothing at all comes from it: its source is not read, and nobody is silent. `MINUTES`: something does. */
  readonly blindFrom: number;
  /** The end of the last minute of which anything came, of one that is not read; null: it is. */
  readonly blindSince: EpochMs | null;
}
/** Who counts nothing for so many minutes... */
const BLIND_AFTER = 3;
/** ...of so many programs that did is not read: one that stopped is silent. */
const PROGRAMS = 3;

type What = 'requests' | 'bytes';
export function tellerOf(labels: ReadLine['labels'], what: What): string {
  const [from, to] = [labels['from_cluster'], labels['to_cluster']];
  return `${what} ${(labels['seen_by'] === 'answerer' ? to || from : from || to) ?? ''}`;
}
const programOf = ({ seen_by, ...labels }: ReadLine['labels']): string =>
  seen_by === 'answerer'
    ? `${labels['to_namespace']}/${labels['to_workload']}`
    : `${labels['from_namespace']}/${labels['from_workload']}`;

/** Everybody who tells, whatever of it somebody may see; some lines at a time. */
export function* tellersOf({ at, requests, bytes, day }: ReadLinks): Generator<void, ReadonlyMap<string, Teller>> {
  const gathered = new Map<
    string,
    { told: Uint8Array; last: number; heardAt: EpochMs | null; programs: Set<string> }
  >();
  const of = (labels: ReadLine['labels'], what: What) => {
    const key = tellerOf(labels, what);
    const own = gathered.get(key) ?? {
      told: new Uint8Array(MINUTES),
      last: -1,
      heardAt: null,
      programs: new Set<string>(),
    };
    gathered.set(key, own);
    return own;
  };
  let lines = 0;
  for (const [what, all] of [['requests', requests] as const, ['bytes', bytes] as const])
    for (const { labels, values } of all) {
      const own = of(labels, what);
      for (const [i, value] of eachMinute(values).entries()) {
        if (Number.isNaN(value)) continue;
        own.told[i] = 1;
        if (value > 0) {
          own.last = Math.max(own.last, i);
          own.programs.add(programOf(labels));
        }
      }
      if (++lines % 100 === 0) yield;
    }
  for (const what of ['requests', 'bytes'] as const)
    for (const line of day?.[what] ?? []) {
      const heardAt = lastInDay(line, day!); // it is of it
      if (heardAt !== null) {
        const own = of(line.labels, what);
        own.programs.add(programOf(line.labels));
        own.heardAt = Math.max(own.heardAt ?? 0, heardAt);
      }
      if (++lines % 100 === 0) yield;
    }
  return new Map(
    [...gathered].map(([key, { told, last, heardAt, programs }]) => {
      const isBlind = last < MINUTES - 1 - BLIND_AFTER && programs.size >= PROGRAMS;
      const blindFrom = isBlind ? last + 1 : MINUTES;
      const blindSince = last < 0 ? heardAt : at - (MINUTES - 1 - last) * MINUTE;
      return [
        key,
        { told: told.map((one, i) => (i < blindFrom ? one : 0)), blindFrom, blindSince: isBlind ? blindSince : null },
      ];
    }),
  );
}
