import { formatCount } from '../format/index.ts';
import type { InventoryObject } from '../inventory/index.ts';
import { type DurationMs, type EpochMs, MINUTE } from '../units/index.ts';
import type { Finding } from './finding.ts';

/** What is being deleted may take this long before anybody is told. */
const TAKES: DurationMs = 10 * MINUTE;

/** Deleting that does not end, and who holds it. */
export function deletionFindings(object: InventoryObject, now: EpochMs): Finding[] {
  const { deletingSince: since, finalizers = [] } = object;
  if (since === null || now - since < TAKES) return [];
  const said =
    object.kind === 'namespace'
      ? (object.conditions ?? []).filter(({ status }) => status === 'true').map(({ message, type }) => message || type)
      : [];
  const held = finalizers.length === 0 ? '' : `waits for ${formatCount(finalizers.length, 'finalizer')}`;
  return [
    {
      code: 'deletionStuck',
      severity: 'warning',
      reason:
        finalizers.length > 0
          ? `Its deletion does not end: ${finalizers.length === 1 ? 'a finalizer holds' : `${finalizers.length} finalizers hold`} it (${finalizers.join(', ')}).`
          : object.kind === 'pod'
            ? `Its deletion does not end: node ${object.node ?? 'unknown'} has not said that its containers have stopped.`
            : 'Its deletion does not end.',
      evidence: said.join(' ') || held || 'nothing of it says what is waited for',
      since,
      nextStep:
        finalizers.length > 0
          ? 'Look at the program that put the finalizer there: it has to do its work, or nobody does it any more.'
          : object.kind === 'pod'
            ? 'Look at the node: a lost one cannot stop its containers.'
            : 'Look at what is left in it.',
    },
  ];
}
