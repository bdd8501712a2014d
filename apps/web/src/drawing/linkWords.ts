import type { MapLink } from '@zetopsis/contract';
import { formatLatency, formatPercent, formatRate } from '@zetopsis/core/format';

/** A link in one sentence: what goes over it, and what is the matter. */
export function linkWords({ state, now, usual, against, sent, received }: MapLink): string {
  const usually = usual === null ? '' : `, ${against === 'this hour' ? 'usual at this hour' : 'before'} `;
  switch (state) {
    case 'refused':
      return `${formatPercent(now)} refused${usually}${usual === null ? '' : formatPercent(usual)}`;
    case 'failing':
      return `${formatPercent(now)} failed${usually}${usual === null ? '' : formatPercent(usual)}`;
    case 'slow':
      return `95 of 100 within ${formatLatency(now)}${usually}${usual === null ? '' : formatLatency(usual)}`;
    case 'flooded':
      return `${formatRate(now)}${usually}${usual === null ? '' : formatRate(usual)}`;
    case 'silent':
      return usual === null ? 'nothing comes' : `nothing comes${usually}${formatRate(usual)}`;
    default:
      return formatRate(sent ?? received ?? 0);
  }
}
/** One figure of it, short; empty where there is none. */
export function figureWords(link: MapLink, of: 'nothing' | 'requests' | 'failed' | '95 of 100 within'): string {
  const { sent, received, failureShare, callerP95, answererP95 } = link;
  const length = callerP95 ?? answererP95;
  switch (of) {
    case 'requests':
      return formatRate(sent ?? received ?? 0);
    case 'failed':
      return failureShare === null ? '' : formatPercent(failureShare);
    case '95 of 100 within':
      return length === null ? '' : formatLatency(length);
    case 'nothing':
      return '';
  }
}
/** What it is now against what it was in the window compared with. */
export function changeWords({ change, was, sent, received, failureShare, callerP95, answererP95 }: MapLink): string {
  const rate = formatRate(sent ?? received ?? 0);
  switch (change) {
    case 'new':
      return `${rate}, nothing then`;
    case 'gone':
      return `nothing, ${formatRate(was?.rate ?? 0)} then`;
    case 'fails more':
    case 'fails less':
      return `${formatPercent(failureShare)} failed, ${formatPercent(was?.failureShare ?? null)} then`;
    case 'slower':
    case 'quicker':
      return `95 of 100 within ${formatLatency(callerP95 ?? answererP95)}, ${formatLatency(was?.p95 ?? null)} then`;
    default:
      return was === null ? rate : `${rate}, ${formatRate(was.rate)} then`;
  }
}
export const SIDE_WORDS = {
  caller: 'the caller',
  answerer: 'the answerer',
  between: 'between them',
  behind: 'what lies behind',
} as const;
