import type { MapLink } from '@zetopsis/contract';
import { formatBytes, formatLatency, formatPercent, formatRate } from '@zetopsis/core/format';

/** A link in one sentence: what goes over it, and what is the matter. */
export function linkWords({ state, blindSince, by, now, usual, against, sent, received, bytes }: MapLink): string {
  const rate = (value: number) => (by === 'bytes' ? bytesWords(value) : formatRate(value));
  const usually = usual === null ? '' : `, ${against === 'this hour' ? 'usual at this hour' : 'before'} `;
  switch (state) {
    case 'refused':
      return `${formatPercent(now)} refused${usually}${usual === null ? '' : formatPercent(usual)}`;
    case 'failing':
      return `${formatPercent(now)} failed${usually}${usual === null ? '' : formatPercent(usual)}`;
    case 'slow':
      return `95 of 100 within ${formatLatency(now)}${usually}${usual === null ? '' : formatLatency(usual)}`;
    case 'flooded':
      return `${rate(now)}${usually}${usual === null ? '' : rate(usual)}`;
    case 'silent':
      return usual === null ? 'nothing comes' : `nothing comes${usually}${rate(usual)}`;
    default:
      if (blindSince !== null) return 'blind: nothing is told by its cluster any more';
      return sent === null && received === null && bytes !== null
        ? bytesWords(bytes)
        : formatRate(sent ?? received ?? 0);
  }
}
export const bytesWords = (perSecond: number): string => `${formatBytes(perSecond)} per s`;
/** One figure of it, short; empty where there is none. */
export function figureWords(link: MapLink, of: string): string {
  const { sent, received, bytes, blindSince, failureShare, callerP95, answererP95 } = link;
  if (blindSince !== null) return of === 'nothing' ? '' : 'blind';
  const length = callerP95 ?? answererP95;
  switch (of) {
    case 'requests':
      return sent === null && received === null && bytes !== null
        ? bytesWords(bytes)
        : formatRate(sent ?? received ?? 0);
    case 'failed':
      return failureShare === null ? '' : formatPercent(failureShare);
    case '95 of 100 within':
      return length === null ? '' : formatLatency(length);
    default:
      return '';
  }
}
/** What it is now against what it was in the window compared with. */
export function changeWords(link: MapLink): string {
  const { change, was, failureShare, callerP95, answererP95 } = link;
  const rated = (value: number) => (link.by === 'bytes' ? bytesWords(value * 1024) : formatRate(value));
  const rate = rated(link.sent ?? link.received ?? (link.bytes ?? 0) / 1024);
  switch (change) {
    case 'new':
      return `${rate}, nothing then`;
    case 'gone':
      return `nothing, ${rated(was?.rate ?? 0)} then`;
    case 'fails more':
    case 'fails less':
      return `${formatPercent(failureShare)} failed, ${formatPercent(was?.failureShare ?? null)} then`;
    case 'slower':
    case 'quicker':
      return `95 of 100 within ${formatLatency(callerP95 ?? answererP95)}, ${formatLatency(was?.p95 ?? null)} then`;
    default:
      return was === null ? rate : `${rate}, ${rated(was.rate)} then`;
  }
}
export const SIDE_WORDS = {
  caller: 'the caller',
  answerer: 'the answerer',
  between: 'between them',
  behind: 'what lies behind',
} as const;
