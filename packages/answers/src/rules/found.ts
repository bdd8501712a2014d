import { EVERYTHING, namesOf, type ObjectPath, workloadIn, writePath } from '@zetopsis/contract';
import { byWeight, type Finding, type FindingCode } from '@zetopsis/core/findings';
import { formatCount } from '@zetopsis/core/format';
import { bySeverity } from '@zetopsis/core/rules';
import type { EpochMs } from '@zetopsis/core/units';
import { wrongIn } from '../now/index.ts';
import type { SeenUsage } from '../usage/index.ts';
import { changedBefore } from './changedBefore.ts';
import { type Subject, workloadNamed } from './subject.ts';

/** What is found wrong in a cluster now, each thing once, where Now shows it: what a lost node takes with it stands at the node. */
export function* foundSubjects(usage: SeenUsage, codes: readonly FindingCode[]): Generator<Subject> {
  const wanted = new Set<FindingCode>(codes);
  for (const { place, findings, takes = [] } of wrongIn(usage, EVERYTHING, usage.window.to)) {
    const [first] = findings.filter(({ code }) => wanted.size === 0 || wanted.has(code)).sort(byWeight);
    if (first) yield foundSubject({ usage, place, finding: first, takes });
  }
}

function foundSubject({
  usage,
  place,
  finding,
  takes,
}: {
  readonly usage: SeenUsage;
  readonly place: ObjectPath;
  readonly finding: Finding;
  readonly takes: readonly ObjectPath[];
}): Subject {
  const path = writePath(place);
  const { inventory } = usage.view;
  const workload = workloadIn(place);
  // who is told need not see whom it is about
  const reason = finding.unnamed ?? finding.reason;
  const uid = workload && 'namespace' in place ? workloadNamed(inventory, place.namespace, workload)?.uid : undefined;
  const name = namesOf(place).at(-1) ?? usage.name;
  return {
    key: path.join('/'),
    path: place,
    name,
    there: true,
    verdicts: () => bySeverity(finding.severity, finding.since),
    value: () => reason,
    facts: (_at: EpochMs, since) => ({
      title: `${name}: ${reason}`.slice(0, 160),
      path,
      place: namesOf(place),
      value: takes.length === 0 ? '' : `${formatCount(takes.length, 'workload')} fail because of it`,
      limit: '',
      share: 0,
      reason,
      evidence: finding.evidence,
      changed: uid === undefined ? null : changedBefore(inventory, uid, finding.since ?? since),
      nextStep: finding.nextStep,
    }),
  };
}
