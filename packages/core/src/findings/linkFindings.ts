import { formatBytes, formatCount, formatLatency, formatPercent, formatRate } from '../format/index.ts';
import type { LinkEnd, LinkState, Side } from '../links/index.ts';
import type { EpochMs } from '../units/index.ts';
import type { Finding } from './finding.ts';
import type { FindingCode } from './kinds.ts';

/** A link in trouble that is the root of its own: what comes of it is counted inside. */
export interface TroubledLink {
  readonly from: LinkEnd;
  readonly to: LinkEnd;
  readonly state: LinkState;
  /** Whether rates are of requests or of bytes. */
  readonly by: 'requests' | 'bytes';
  readonly side: Side;
  /** As the state has it: a share, seconds, or requests a second. */
  readonly now: number;
  readonly usual: number | null;
  readonly since: EpochMs | null;
  /** What speaks for the side; names nobody. */
  readonly evidence: readonly string[];
  /** Other links that are in trouble because of this one. */
  readonly inside: number;
}
const CODES: Readonly<Record<LinkState, FindingCode>> = {
  refused: 'linkRefused',
  silent: 'linkSilent',
  failing: 'linkFailing',
  slow: 'linkSlow',
  flooded: 'linkFlooded',
};
/** Of a share so high people are without answers. */
const MOST = 0.5;

/** Which of both ends it stands at: the side that it most likely comes from, and the answerer where it lies on the way. */
export const blamedEnd = ({ side }: Pick<TroubledLink, 'side'>): 'from' | 'to' => (side === 'caller' ? 'from' : 'to');

const OF_LINKS: ReadonlySet<string> = new Set(Object.values(CODES));
/** Whether a finding is what links tell of a workload. */
export const isOfLinks = (code: FindingCode): boolean => OF_LINKS.has(code);
/** As it is told at one end. `other`: the name of the other end; null: whoever looks may not see it. */
export function linkFinding(link: TroubledLink, at: 'from' | 'to', other: string | null): Finding {
  const unnamed = reasonOf(link, at, at === 'from' ? 'a workload of others' : 'A workload of others');
  const { state, now, usual, since, evidence, inside } = link;
  const share = state === 'refused' || state === 'failing';
  return {
    code: CODES[state],
    severity: share && now >= MOST ? 'critical' : 'warning',
    reason: other === null ? unnamed : reasonOf(link, at, other),
    evidence: [
      ...evidence,
      ...(inside > 0 ? [`${formatCount(inside, 'more link')} in trouble because of it`] : []),
      ...(share && usual !== null
        ? [`over the last 5 min ${formatPercent(now)}, usually ${formatPercent(usual)}`]
        : []),
    ].join('; '),
    since,
    nextStep: 'Look at the link on the map: what both of its sides tell, and what else is in trouble behind it.',
    ...(other === null || link.from.namespace === link.to.namespace ? {} : { unnamed }),
  };
}
function reasonOf({ state, by, now, usual }: TroubledLink, at: 'from' | 'to', other: string): string {
  const calls = at === 'from';
  const worded = (value: number) => (by === 'bytes' ? `${formatBytes(value)} per s` : formatRate(value));
  const rate = usual === null ? '' : `, usually ${worded(usual)}`;
  switch (state) {
    case 'refused':
      return calls
        ? `It cannot reach ${other}: ${formatPercent(now)} of its attempts are refused.`
        : `${other} cannot reach it: ${formatPercent(now)} of the attempts are refused.`;
    case 'silent':
      return calls ? `It sends nothing to ${other} any more${rate}.` : `${other} sends it nothing any more${rate}.`;
    case 'failing':
      return `${formatPercent(now)} of what ${calls ? `it asks of ${other}` : `${lower(other)} asks of it`} fails.`;
    case 'slow': {
      const before = usual === null ? '' : `, usually below ${formatLatency(usual)}`;
      return `${calls ? `It waits for ${other}` : `${other} waits for it`}: 95 % of the requests stay below ${formatLatency(now)}${before}.`;
    }
    case 'flooded':
      return `${calls ? `It sends ${other}` : `${other} sends it`} ${worded(now)}${rate}.`;
  }
}
const lower = (other: string): string => other.replace(/^A workload/, 'a workload');
