import type { ConnectionAnswer, EndpointAnswer, ObjectPath } from '@zetopsis/contract';
import { writePath } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import { formatDuration } from '@zetopsis/core/format';
import { bySeverity } from '@zetopsis/core/rules';
import type { EpochMs } from '@zetopsis/core/units';
import { connectionSpot, endpointSpots, type Spot } from '../now/index.ts';
import type { Occurrence } from './occurrences.ts';
import type { Subject } from './subject.ts';

/** Sources that nothing comes from, one cause once: of a blind cluster nothing is told of its pages. What pages say is for those who see everything. */
export function* silentSubjects(
  connections: readonly ConnectionAnswer[],
  endpoints: readonly EndpointAnswer[],
): Generator<Subject> {
  const silent = connections.filter(({ state }) => state !== 'reading' && state !== 'connecting');
  const blind = new Set(silent.map(({ name }) => name));
  for (const connection of silent)
    yield silentSubject({
      key: `cluster ${connection.id}`,
      cluster: connection.name,
      spot: connectionSpot(connection),
      severity: 'critical',
    });
  for (const { cause, spot } of endpointSpots(
    endpoints.filter(({ connection }) => connection === null || !blind.has(connection)),
  ))
    yield silentSubject({ key: `pages ${cause}`, cluster: null, spot, severity: 'warning' });
}

/** Of a silent cluster nothing is known any more; of a silent page what it alone tells. */
function silentSubject({
  key,
  cluster,
  spot,
  severity,
}: {
  readonly key: string;
  readonly cluster: string | null;
  readonly spot: Spot;
  readonly severity: Severity;
}): Subject {
  const path: ObjectPath = cluster === null ? { is: 'everything' } : { is: 'cluster', cluster };
  return {
    key,
    path,
    name: spot.what,
    there: true,
    verdicts: () => bySeverity(severity, spot.since),
    value: () => spot.reason,
    facts: (at, since) => ({
      title: `Nothing comes from ${spot.what}`,
      path: writePath(path),
      place: cluster === null ? ['outside of all clusters'] : [cluster],
      value: `silent for ${formatDuration(at - since)}`,
      limit: '',
      share: 0,
      reason: spot.reason,
      evidence: '',
      changed: null,
      nextStep: spot.nextStep ?? NEXT_STEP,
    }),
  };
}
const NEXT_STEP = 'Sources says what happened at each try.';

/** A stretch in which nothing came from a source. */
interface Silence {
  readonly from: EpochMs;
  /** Null: it goes on. */
  readonly to: EpochMs | null;
  readonly reason: string;
}
/** The same of the past: clusters that were blind, and pages that were not read while their cluster was heard of. */
export function* silentOccurrences(
  clusters: readonly (Silence & { readonly cluster: string })[],
  pages: readonly (Silence & { readonly cluster: string | null; readonly name: string })[],
): Generator<Occurrence> {
  const blind = new Map<string, Silence[]>();
  for (const { cluster, ...span } of [...clusters].sort((a, b) => a.from - b.from)) {
    blind.set(cluster, [...(blind.get(cluster) ?? []), span]);
    yield silence({ key: `cluster ${cluster}`, cluster, what: cluster, severity: 'critical', ...span });
  }
  const byCause = new Map<string, ((typeof pages)[number] & Silence)[]>();
  for (const page of pages) {
    const cause = `pages ${page.cluster} ${page.reason}`;
    const own = byCause.get(cause) ?? [];
    if (own.length === 0) byCause.set(cause, own);
    for (const left of outsideOf(page, page.cluster === null ? [] : (blind.get(page.cluster) ?? [])))
      own.push({ ...page, ...left });
  }
  for (const [key, own] of byCause)
    for (const run of runsOf(own)) {
      const [first] = run;
      const names = new Set(run.map(({ name }) => name));
      const more = names.size === 1 ? '' : ` and ${names.size - 1} more`;
      const { cluster, name, reason, from } = first!; // a run is not empty
      const to = run.some((one) => one.to === null) ? null : Math.max(...run.map((one) => one.to!));
      const what = `${cluster === null ? '' : `${cluster} › `}${name}${more}`;
      yield silence({ key, cluster: null, what, severity: 'warning', from, to, reason });
    }
}
function silence({
  cluster,
  what,
  ...of
}: Pick<Occurrence, 'key' | 'severity' | 'from' | 'to' | 'reason'> & {
  readonly cluster: string | null;
  readonly what: string;
}): Occurrence {
  return {
    ...of,
    path: cluster === null ? { is: 'everything' } : { is: 'cluster', cluster },
    name: what,
    evidence: '',
    nextStep: NEXT_STEP,
    chosen: false,
  };
}
/** What is left of a stretch where none of these is; they ascend and do not overlap. */
function* outsideOf(
  { from, to }: Omit<Silence, 'reason'>,
  spans: readonly Omit<Silence, 'reason'>[],
): Generator<Omit<Silence, 'reason'>> {
  let since = from;
  for (const span of spans) {
    if (to !== null && span.from >= to) break;
    if (span.from > since) yield { from: since, to: span.from };
    if (span.to === null) return;
    since = Math.max(since, span.to);
  }
  if (to === null || to > since) yield { from: since, to };
}
/** Stretches that overlap or touch are one run; each begins with the oldest. */
function* runsOf<T extends Silence>(spans: readonly T[]): Generator<T[]> {
  let run: T[] = [];
  let over: EpochMs | null = Number.NEGATIVE_INFINITY;
  for (const span of [...spans].sort((a, b) => a.from - b.from)) {
    if (run.length > 0 && over !== null && span.from > over) {
      yield run;
      run = [];
      over = Number.NEGATIVE_INFINITY;
    }
    run.push(span);
    over = over === null || span.to === null ? null : Math.max(over, span.to);
  }
  if (run.length > 0) yield run;
}
