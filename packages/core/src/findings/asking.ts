import { formatAmount, formatPercent } from '../format/index.ts';
import type { Resource } from '../units/index.ts';
import type { Finding } from './finding.ts';

/** Below these amounts asked for and not used nobody is troubled: cores, bytes. */
const WORTH: Record<Resource, number> = { cpu: 4, memory: 16 * 2 ** 30 };
const LITTLE = 0.25;
const NAMES: Record<Resource, string> = { cpu: 'CPU', memory: 'memory' };

/**
 * What a namespace or a workload asks for against the most that it used in a window: what is asked for is kept from others.
 * `least`: how much of it has to be idle to be worth a word, in cores or bytes.
 */
export function askingFindings(
  usage: Readonly<Record<Resource, { readonly request: number | null; readonly peak: number | null }>>,
  resource: Resource,
  least: number = WORTH[resource],
): Finding[] {
  const { request, peak } = usage[resource];
  if (request === null || peak === null || request - peak < least || peak > request * LITTLE) return [];
  return [
    {
      code: 'overAsking',
      severity: 'warning',
      reason: `It asks for ${formatAmount(resource, request)} of ${NAMES[resource]} and uses ${formatPercent(peak / request)} of it.`,
      evidence: `95 % of the time ${formatAmount(resource, peak)} or less; ${formatAmount(resource, request - peak)} are kept from others`,
      since: null,
      nextStep: 'Lower its requests towards what it uses: its fit tells how far.',
    },
  ];
}
