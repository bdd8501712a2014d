import { toTheEnd } from '../steps/index.ts';
import { endKey, type LinkEnd, pairKey } from './link.ts';
import type { LinkJudgement, LinkState } from './states.ts';

/** Where what is the matter with a link most likely comes from. */
export const SIDES = ['caller', 'answerer', 'between', 'behind'] as const;
export type Side = (typeof SIDES)[number];

/** A link as it is now, for whoever looks for causes. */
export interface JudgedLink {
  readonly from: LinkEnd;
  readonly to: LinkEnd;
  readonly judgement: LinkJudgement;
  /** Per second: what the caller sent, what the answerer received. Null: that side tells nothing. */
  readonly sent: number | null;
  readonly received: number | null;
  /** s, each side's 95th percentile. */
  readonly callerP95: number | null;
  readonly answererP95: number | null;
  /** Of the answerer's time, the share that was its own; null: it tells nothing. */
  readonly ownShare: number | null;
  /** Carried something within the hour before. */
  readonly carried: boolean;
  /** Carries something now. */
  readonly carries: boolean;
}
export interface Cause {
  readonly side: Side;
  /** What speaks for it, and what was ruled out, in words. */
  readonly evidence: readonly string[];
  /** The link behind it at which it ends; null: it is this one. */
  readonly root: string | null;
}
/** What an answerer has of those that it calls itself. */
const PASSED_ON: ReadonlySet<LinkState> = new Set(['slow', 'failing']);
/** What comes to a program so lets it call others less, or not at all. */
const STARVES: ReadonlySet<LinkState> = new Set(['silent', 'refused', 'failing']);
const DEEPEST = 12;
const AT_ONCE = 100;
const share = (part: number): string => `${Math.round(part * 100)} %`;

/** Links by who calls and by who answers. */
interface Index {
  readonly from: ReadonlyMap<string, readonly JudgedLink[]>;
  readonly to: ReadonlyMap<string, readonly JudgedLink[]>;
  readonly keys: ReadonlyMap<JudgedLink, string>;
}
function* indexOf(all: readonly JudgedLink[]): Generator<void, Index> {
  const index = {
    from: new Map<string, JudgedLink[]>(),
    to: new Map<string, JudgedLink[]>(),
    keys: new Map<JudgedLink, string>(),
  };
  for (const [i, link] of all.entries()) {
    if (i % AT_ONCE === 0) yield;
    index.keys.set(link, pairKey(link));
    for (const side of ['from', 'to'] as const) {
      const key = endKey(link[side]);
      const own = index[side].get(key) ?? [];
      own.push(link);
      index[side].set(key, own);
    }
  }
  return index;
}
/** Of a link in trouble, among all others of that moment. */
export const causeOf = (link: JudgedLink, all: readonly JudgedLink[]): Cause => causeIn(link, toTheEnd(indexOf(all)));

function causeIn(link: JudgedLink, index: Index): Cause {
  const { state } = link.judgement;
  const fromKey = endKey(link.from);
  const toKey = endKey(link.to);
  const besides = (links: readonly JudgedLink[] = []) => links.filter((other) => other !== link && other.carried);
  const ofCaller = besides(index.from.get(fromKey));
  const ofAnswerer = besides(index.to.get(toKey));
  const ill = ({ judgement }: JudgedLink) => judgement.state !== null;
  const evidence: string[] = [];

  // ---- what lies behind: the answerer waits for, or is failed by, one that it calls itself
  if (state !== null && PASSED_ON.has(state)) {
    const root = rootOf(link, index, new Set([link]), 0);
    if (root !== null) {
      evidence.push(`what it calls is in trouble as well: ${root.to.workload} (${root.judgement.state})`);
      if (link.ownShare !== null) evidence.push(`${share(1 - link.ownShare)} of its time it waits for others`);
      return { side: 'behind', evidence, root: index.keys.get(root)! }; // it is one of them
    }
  }
  switch (state) {
    case 'silent':
    case 'flooded': {
      const fell = ofCaller.filter(ill).length;
      if (state === 'flooded') {
        const source = (index.to.get(fromKey) ?? []).find(({ judgement }) => judgement.state === 'flooded');
        if (source) {
          evidence.push(`the caller is flooded itself, by ${source.from.workload}`);
          return { side: 'caller', evidence, root: floodedFrom(source, index, new Set([link]), 0) };
        }
        evidence.push(ofAnswerer.some(ill) ? 'other callers send more as well' : 'no other caller sends more');
        return { side: 'caller', evidence, root: null };
      }
      const asked = (index.to.get(fromKey) ?? []).filter(({ carried, carries }) => carried || carries);
      if (
        asked.length > 0 &&
        asked.every(({ judgement }) => judgement.state !== null && STARVES.has(judgement.state))
      ) {
        const source = asked[0]!; // there is one
        evidence.push(`nothing gets through to the caller itself: ${source.from.workload} (${source.judgement.state})`);
        return { side: 'caller', evidence, root: index.keys.get(source)! }; // it is one of them
      }
      if (ofCaller.length > 0 && fell === ofCaller.length) {
        evidence.push(`all ${fell + 1} links of the caller fell`);
        return { side: 'caller', evidence, root: null };
      }
      if (ofCaller.length > 0) evidence.push('the caller calls others as before');
      evidence.push(
        ofAnswerer.some(({ carries }) => carries)
          ? 'the answerer answers others as before'
          : 'nobody else calls the answerer',
      );
      evidence.push('no attempts were sent');
      return { side: 'caller', evidence, root: null };
    }
    case 'refused':
      evidence.push('attempts reached nobody');
      if (ofAnswerer.some(ill)) evidence.push('other callers of it are refused or fail as well');
      else if (ofAnswerer.some(({ carries }) => carries)) {
        evidence.push('it answers others');
        return { side: 'between', evidence, root: null };
      }
      return { side: 'answerer', evidence, root: null };
    default:
      break;
  }
  if (link.sent !== null && link.received !== null && link.received < 0.9 * link.sent) {
    evidence.push(`${share(1 - link.received / Math.max(link.sent, 1e-9))} of what was sent did not arrive`);
    return { side: 'between', evidence, root: null };
  }
  if (
    state === 'slow' &&
    link.callerP95 !== null &&
    link.answererP95 !== null &&
    link.callerP95 > 2 * link.answererP95 &&
    link.callerP95 > link.answererP95 + 0.05
  ) {
    evidence.push('the answerer is as quick as ever by its own clock');
    return { side: 'between', evidence, root: null };
  }
  if (ofAnswerer.length > 0 && ofAnswerer.every(ill))
    evidence.push(`all ${ofAnswerer.length + 1} of its callers see it`);
  else if (ofAnswerer.some(({ carries }) => carries)) evidence.push('other callers of it do not see it');
  if (state === 'slow' && link.ownShare !== null) evidence.push(`${share(link.ownShare)} of its time is its own`);
  if (evidence.length === 0) evidence.push('nothing speaks for another side');
  return { side: 'answerer', evidence, root: null };
}
/** Where a flood comes from, along who calls whom. */
function floodedFrom(link: JudgedLink, index: Index, seen: Set<JudgedLink>, depth: number): string {
  seen.add(link);
  const before = (index.to.get(endKey(link.from)) ?? []).find(
    (other) => other.judgement.state === 'flooded' && !seen.has(other),
  );
  return before && depth < DEEPEST ? floodedFrom(before, index, seen, depth + 1) : index.keys.get(link)!; // it is one of them
}
/** The farthest link in trouble behind this one, along what its answerer calls. */
function rootOf(link: JudgedLink, index: Index, seen: Set<JudgedLink>, depth: number): JudgedLink | null {
  if (depth > DEEPEST) return null;
  let next: JudgedLink | null = null;
  for (const other of index.from.get(endKey(link.to)) ?? []) {
    const { state } = other.judgement;
    // what is not called any more makes nobody wait
    if (state === null || state === 'flooded' || state === 'silent' || seen.has(other)) continue;
    if (next === null || weight(other) > weight(next)) next = other;
  }
  if (next === null) return null;
  seen.add(next);
  return rootOf(next, index, seen, depth + 1) ?? next;
}
const weight = ({ judgement: { now, usual } }: JudgedLink): number => now / Math.max(usual ?? 0, 1e-6);

/** Trouble as it is told: one entry for each cause, with what comes of it inside. */
export interface TroubleEntry {
  readonly link: string;
  readonly cause: Cause;
  /** Other links in trouble of the same cause. */
  readonly inside: readonly string[];
}
const ORDER: readonly LinkState[] = ['refused', 'silent', 'failing', 'slow', 'flooded'];
export const troubleOf = (all: readonly JudgedLink[]): TroubleEntry[] => toTheEnd(troubleBySteps(all));
/** The same, some links at a time. */
export function* troubleBySteps(all: readonly JudgedLink[]): Generator<void, TroubleEntry[]> {
  const index = yield* indexOf(all);
  yield;
  const key = (link: JudgedLink) => index.keys.get(link)!; // each has one
  const ill = all.filter(({ judgement }) => judgement.state !== null);
  const causes = new Map<string, Cause>();
  const inside = new Map<string, string[]>();
  for (const link of ill) {
    const cause = causeIn(link, index);
    causes.set(key(link), cause);
    if (causes.size % AT_ONCE === 0) yield;
  }
  for (const links of sameCause(ill, (link) => causes.get(key(link))!)) {
    // the one that most goes over stands for all of them
    const [first, ...others] = links.sort((a, b) => (b.sent ?? 0) - (a.sent ?? 0) || (key(a) < key(b) ? -1 : 1));
    for (const other of others) causes.set(key(other), { ...causes.get(key(other))!, root: key(first!) }); // each has one
  }
  const rootOfAll = (own: string): string => {
    const way: string[] = [];
    for (let at = own; ; ) {
      const round = way.indexOf(at);
      // they blame each other in a circle: it stands at one of them, the same each time
      if (round >= 0) return way.slice(round).sort()[0]!; // it has at least that one
      way.push(at);
      const root = causes.get(at)?.root ?? null;
      if (root === null || !causes.has(root)) return at;
      at = root;
    }
  };
  for (const own of causes.keys()) {
    const root = rootOfAll(own);
    const some = inside.get(root) ?? [];
    if (root !== own) some.push(own);
    inside.set(root, some);
  }
  const rank = (link: JudgedLink) => ORDER.indexOf(link.judgement.state!); // they are in trouble
  return ill
    .filter((link) => inside.has(key(link)))
    .sort((a, b) => rank(a) - rank(b) || (key(a) < key(b) ? -1 : 1))
    .map((link) => ({ link: key(link), cause: causes.get(key(link))!, inside: (inside.get(key(link)) ?? []).sort() }));
}
/** Links in trouble in the same way at the same end, where that end is what it most likely comes from. */
function sameCause(ill: readonly JudgedLink[], causeOf: (link: JudgedLink) => Cause): JudgedLink[][] {
  const groups = new Map<string, JudgedLink[]>();
  for (const link of ill) {
    const { side, root } = causeOf(link);
    if (root !== null || (side !== 'answerer' && side !== 'caller')) continue;
    const at = `${side} ${link.judgement.state} ${endKey(side === 'caller' ? link.from : link.to)}`;
    const own = groups.get(at) ?? [];
    own.push(link);
    groups.set(at, own);
  }
  return [...groups.values()];
}
