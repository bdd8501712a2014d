import { namespaceOf, type ObjectPath, workloadIn } from '@zetopsis/contract';
import type { Criticality } from '@zetopsis/core/findings';
import { type AnyWorkload, type ClusterInventory, isWorkload, type WorkloadName } from '@zetopsis/core/inventory';
import type { LevelVerdicts } from '@zetopsis/core/rules';
import type { Sample } from '@zetopsis/core/samples';
import type { DurationMs, EpochMs } from '@zetopsis/core/units';
import type { CriticalityOf } from '../findings/index.ts';

/** What an alert tells, kept as it was when it was raised. */
export interface AlertFacts {
  readonly title: string;
  readonly path: readonly string[];
  /** The path in words a person reads. */
  readonly place: readonly string[];
  readonly value: string;
  readonly limit: string;
  readonly share: number;
  readonly reason: string;
  readonly evidence: string;
  readonly changed: string | null;
  readonly nextStep: string;
  readonly team: string | null;
}
/** One object a rule looks at: how it stands at a moment, and what to tell of it. */
export interface Subject {
  /** Of its own in what a rule looks at, as long as it is there. */
  readonly key: string;
  readonly path: ObjectPath;
  /** In a list of what the rule looks at. */
  readonly name: string;
  /** It can be asked how it stands; else only its end is told. */
  readonly there: boolean;
  /** What the rule applies to was looked at when it was made: it need not fit itself. */
  readonly chosen?: true;
  /** `at` lies a little in the past for measured values; object states are judged as they are now. */
  verdicts(at: EpochMs): LevelVerdicts;
  /** How it stands, in words. */
  value(at: EpochMs): string;
  facts(at: EpochMs, since: EpochMs): Omit<AlertFacts, 'team'>;
}

/** A cluster as rules look at it. */
export interface JudgedCluster {
  readonly name: string;
  readonly blind: boolean;
  readonly interval: DurationMs;
  readonly inventory: ClusterInventory;
  readonly criticalityOf: CriticalityOf;
  /** The newest working set of one container up to a moment, an end as well; null where nothing was read. */
  readonly memoryAt: (podUid: string, container: string, at: EpochMs) => Sample | null;
}

/** The workload as it is now; null of what is no object of ours, or is not there any more. */
export function workloadNamed(
  inventory: ClusterInventory,
  namespace: string,
  { kind, name }: WorkloadName,
): AnyWorkload | null {
  if (kind === 'lone pod' || kind === 'other') return null;
  const found = inventory.named(kind, namespace, name);
  return found && isWorkload(found) ? found : null;
}

/** What a selector asks for of an object. */
export interface Traits {
  readonly labels: Readonly<Record<string, string>>;
  readonly criticality: Criticality;
}
/** Of what stands in no cluster that is known. */
export const NO_TRAITS: Traits = { labels: {}, criticality: 'ordinary' };
/** By its namespace, its workload or its node; of what is not there any more nothing is known. */
export function traitsOf(
  { inventory, criticalityOf }: Pick<JudgedCluster, 'inventory' | 'criticalityOf'>,
  path: ObjectPath,
): Traits {
  if (path.is === 'node') {
    const node = inventory.named('node', '', path.node);
    return { labels: node?.labels ?? {}, criticality: 'ordinary' };
  }
  const namespace = namespaceOf(path);
  if (namespace === null) return { labels: {}, criticality: 'ordinary' };
  const space = inventory.named('namespace', '', namespace);
  const named = workloadIn(path);
  const workload = named && workloadNamed(inventory, namespace, named);
  return {
    labels: { ...space?.labels, ...workload?.labels },
    criticality: criticalityOf(namespace, workload ?? null).is,
  };
}
