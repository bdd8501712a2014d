import {
  formatBytes,
  formatCores,
  formatDuration,
  formatLatency,
  formatNumber,
  formatPercent,
  formatRate,
} from '../format/index.ts';

/** A value in the unit that it is counted in, or as it is asked for. */
export function valueWords(value: number | null, unit: string, shownAs: string | null): string {
  if (value === null) return 'no value';
  if (shownAs === 'percent') return formatPercent(value);
  switch (unit) {
    case 'bytes':
      return formatBytes(value);
    case 'bytes per second':
      return `${formatBytes(value)} per s`;
    case 'cores':
      return formatCores(value);
    case 'seconds':
      return Math.abs(value) < 60 ? formatLatency(value) : formatDuration(value * 1000);
    case 'per second':
      return formatRate(value);
    case '':
      return formatNumber(value);
    default:
      return `${formatNumber(value)} ${unit}`;
  }
}
