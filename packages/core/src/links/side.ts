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
const PASSED_ON: ReadonlySet<LinkState> = new Set(['slow', 'failing', 'silent']);
const DEEPEST = 12;
const share = (part: number): string => `${Math.round(part * 100)} %`;

/** Of a link in trouble, among all others of that moment. */
export function causeOf(link: JudgedLink, all: readonly JudgedLink[]): Cause {
  const { state } = link.judgement;
  const fromKey = endKey(link.from);
  const toKey = endKey(link.to);
  const others = all.filter((other) => other !== link);
  const ofCaller = others.filter(({ from, carried }) => carried && endKey(from) === fromKey);
  const ofAnswerer = others.filter(({ to, carried }) => carried && endKey(to) === toKey);
  const ill = ({ judgement }: JudgedLink) => judgement.state !== null;
  const evidence: string[] = [];

  // ---- what lies behind: the answerer waits for, or is failed by, one that it calls itself
  if (state !== null && PASSED_ON.has(state)) {
    const root = rootOf(link, all, new Set([pairKey(link)]), 0);
    if (root !== null) {
      evidence.push(`what it calls is in trouble as well: ${root.to.workload} (${root.judgement.state})`);
      if (link.ownShare !== null) evidence.push(`${share(1 - link.ownShare)} of its time it waits for others`);
      return { side: 'behind', evidence, root: pairKey(root) };
    }
  }
  switch (state) {
    case 'silent':
    case 'flooded': {
      const fell = ofCaller.filter(ill).length;
      if (state === 'flooded') {
        evidence.push(ofAnswerer.some(ill) ? 'other callers send more as well' : 'no other caller sends more');
        return { side: 'caller', evidence, root: null };
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
  return { side: 'answerer', evidence, root: null };
}
/** The farthest link in trouble behind this one, along what its answerer calls. */
function rootOf(link: JudgedLink, all: readonly JudgedLink[], seen: Set<string>, depth: number): JudgedLink | null {
  if (depth > DEEPEST) return null;
  const behind = all
    .filter(
      (other) =>
        endKey(other.from) === endKey(link.to) &&
        other.judgement.state !== null &&
        other.judgement.state !== 'flooded' &&
        !seen.has(pairKey(other)),
    )
    .sort((a, b) => weight(b) - weight(a));
  const [next] = behind;
  if (!next) return null;
  seen.add(pairKey(next));
  return rootOf(next, all, seen, depth + 1) ?? next;
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
export function troubleOf(all: readonly JudgedLink[]): TroubleEntry[] {
  const ill = all.filter(({ judgement }) => judgement.state !== null);
  const causes = new Map(ill.map((link) => [pairKey(link), causeOf(link, all)]));
  const inside = new Map<string, string[]>();
  for (const [key, { root }] of causes)
    if (root !== null && causes.has(root)) {
      const own = inside.get(root) ?? [];
      own.push(key);
      inside.set(root, own);
    }
  const rank = (link: JudgedLink) => ORDER.indexOf(link.judgement.state!); // they are in trouble
  return ill
    .filter((link) => {
      const { root } = causes.get(pairKey(link))!; // each has one
      return root === null || !causes.has(root);
    })
    .sort((a, b) => rank(a) - rank(b) || pairKey(a).localeCompare(pairKey(b)))
    .map((link) => {
      const key = pairKey(link);
      return { link: key, cause: causes.get(key)!, inside: (inside.get(key) ?? []).sort() };
    });
}
