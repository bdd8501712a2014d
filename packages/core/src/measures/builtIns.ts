import type { RequestSource } from '../answered/index.ts';
import { OBJECT_LABELS } from '../scouting/index.ts';
import type { DurationMs } from '../units/index.ts';
import { VITAL_LABELS } from '../vitals/index.ts';
import { printMeasure } from './print.ts';
import type { Across, Amount, Body, Chain, Condition, Duration, Expression, Source, Step } from './tree.ts';

/** What a figure that the product shows is of. */
export interface MeasuredPlace {
  readonly cluster?: string;
  readonly namespace?: string;
  readonly workload?: { readonly kind: string; readonly name: string };
  readonly pod?: string;
  readonly container?: string;
  readonly node?: string;
  /** Of what a team owns: its name. */
  readonly team?: string;
}
/** What the product shows, each figure with a measure that asks for the same. */
export type BuiltIn =
  | 'cpu'
  | 'memory'
  | 'cpu share of limit'
  | 'memory share of limit'
  | 'throttled'
  | 'restarts'
  | 'ready of desired'
  | 'network'
  | 'files'
  | 'volume'
  | 'memory running out';

const DIRECTION = VITAL_LABELS.direction;
const over = (ms: DurationMs): Duration =>
  ms % 60_000 === 0 ? { value: ms / 60_000, unit: 'm' } : { value: Math.max(1, Math.ceil(ms / 1000)), unit: 's' };
const is = (label: string, text: string): Condition => ({ label, is: 'is', text });
const perSecond = (ms: DurationMs): Step => ({ step: 'per second', stretch: { over: over(ms) } });
const OVERALL: Across = { overall: true };
const total: Step = { step: 'across', what: 'total', across: OVERALL };
const where = (all: readonly Condition[]): Step[] => (all.length === 0 ? [] : [{ step: 'where', where: all }]);
const name = (text: string): Expression => ({ is: 'name', name: text });
const divided = (left: Expression, right: Expression): Expression => ({
  is: 'operator',
  operator: '/',
  left,
  right,
  pairedBy: null,
});

/** Steps that narrow series of pods to a place: labels that every series bears first, then those of its object. */
function inside(place: MeasuredPlace, more: readonly Condition[] = []): Step[] {
  const { cluster, namespace, workload, pod, container, node, team } = place;
  const own: Condition[] = [
    ...(cluster === undefined ? [] : [is('cluster', cluster)]),
    ...(namespace === undefined ? [] : [is(OBJECT_LABELS.namespace, namespace)]),
    ...(container === undefined ? [] : [is(OBJECT_LABELS.container, container)]),
    ...more,
  ];
  // a pod is its own: its workload would say no more
  const added: Condition[] =
    pod !== undefined
      ? [is('pod', pod)]
      : [
          ...(workload === undefined ? [] : [is('workload', workload.name), is('kind', workload.kind)]),
          ...(node === undefined ? [] : [is('node', node)]),
          ...(team === undefined ? [] : [is('team', team)]),
        ];
  return [
    ...where(own),
    ...(added.length === 0
      ? []
      : [{ step: 'add labels', labels: added.map(({ label }) => label) } as const, ...where(added)]),
  ];
}
const nodeItself = ({ cluster, node }: MeasuredPlace, more: readonly Condition[] = []): Step[] =>
  where([
    ...(cluster === undefined ? [] : [is('cluster', cluster)]),
    ...(node === undefined ? [] : [is(OBJECT_LABELS.node, node)]),
    ...more,
  ]);
const ofNode = ({ node, pod }: MeasuredPlace): boolean => node !== undefined && pod === undefined;
/** Of a cluster, or of everything: what its nodes can give is what applies. */
const ofNodes = ({ namespace, workload, pod, team }: MeasuredPlace): boolean =>
  namespace === undefined && workload === undefined && pod === undefined && team === undefined;

const vital = (own: string): Source => ({ is: 'vital', name: own });
const chain = (source: Source, ...steps: readonly Step[]): Chain => ({ source, steps });
const alone = (own: Chain): Body => ({ bindings: [], result: { is: 'chain', chain: own } });
const share = (use: Chain, limit: Chain): Body => ({
  bindings: [
    { name: 'use', chain: use },
    { name: 'limit', chain: limit },
  ],
  result: { is: 'show', expression: divided(name('use'), name('limit')), as: 'percent' },
});

const SIX_HOURS: Duration = { value: 6, unit: 'h' };
const DAY: Duration = { value: 24, unit: 'h' };

/**
 * The measure that asks for what the product shows: its text. `apart`: how long a rate is taken over, ms; `bound`: bytes that
 * run out. Null where a figure is not of such a place.
 */
export function builtIn(
  figure: BuiltIn,
  place: MeasuredPlace,
  { apart = 300_000, bound }: { readonly apart?: DurationMs; readonly bound?: number } = {},
): string | null {
  const body = bodyOf(figure, place, apart, bound);
  return body && printMeasure(body);
}
function bodyOf(figure: BuiltIn, place: MeasuredPlace, apart: DurationMs, bound: number | undefined): Body | null {
  const node = ofNode(place);
  const cpu = node
    ? chain(vital('node.cpu.time'), ...nodeItself(place), perSecond(apart), total)
    : chain(vital('container.cpu.time'), ...inside(place), perSecond(apart), total);
  const memory = node
    ? chain(vital('node.memory.working_set'), ...nodeItself(place), total)
    : chain(vital('container.memory.working_set'), ...inside(place), total);
  const limit = (resource: 'cpu' | 'memory'): Chain =>
    ofNodes(place)
      ? chain(vital(`node.${resource}.allocatable`), ...nodeItself(place), total)
      : chain(vital(`container.${resource}.limit`), ...inside(place), total);
  const each: Step = { step: 'across', what: 'total', across: { each: [DIRECTION] } };
  // a pod's network is all its containers'
  const { container: _container, ...ofPod } = place;
  switch (figure) {
    case 'cpu':
      return alone(cpu);
    case 'memory':
      return alone(memory);
    case 'cpu share of limit':
      return share(cpu, limit('cpu'));
    case 'memory share of limit':
      return share(memory, limit('memory'));
    case 'throttled':
      return node ? null : alone(chain(vital('container.cpu.throttled'), ...inside(place), perSecond(apart), total));
    case 'restarts':
      return node
        ? null
        : alone(
            chain(
              vital('container.restarts'),
              ...inside(place),
              { step: 'treat as counter' },
              { step: 'growth', stretch: { over: DAY } },
              total,
            ),
          );
    case 'ready of desired': {
      const { cluster, namespace, workload } = place;
      if (workload === undefined || cluster === undefined || namespace === undefined || place.pod !== undefined)
        return null;
      const own = where([
        is('cluster', cluster),
        is(OBJECT_LABELS.namespace, namespace),
        is('workload', workload.name),
        is('kind', workload.kind),
      ]);
      return {
        bindings: [
          { name: 'ready', chain: chain(vital('workload.ready'), ...own) },
          { name: 'desired', chain: chain(vital('workload.desired'), ...own) },
        ],
        result: { is: 'show', expression: divided(name('ready'), name('desired')), as: 'percent' },
      };
    }
    case 'network':
      return alone(
        ofNodes(place)
          ? chain(vital('node.network.io'), ...nodeItself(place), perSecond(apart), each)
          : chain(vital('pod.network.io'), ...inside(ofPod), perSecond(apart), each),
      );
    case 'files':
      return alone(
        ofNodes(place)
          ? chain(vital('node.filesystem.usage'), ...nodeItself(place), total)
          : chain(vital('container.filesystem.usage'), ...inside(place), total),
      );
    case 'volume':
      return share(
        chain(vital('volume.usage'), ...inside(place), total),
        chain(vital('volume.capacity'), ...inside(place), total),
      );
    case 'memory running out':
      return bound === undefined
        ? null
        : alone({
            ...memory,
            steps: [...memory.steps, { step: 'time until', bound: { value: bound, unit: 'B' }, from: SIX_HOURS }],
          });
  }
}

/** Objects of one level, each a line. */
export type EachOf = 'cluster' | 'namespace' | 'workload' | 'pod' | 'container' | 'node';
const LABELS_OF: Readonly<Record<EachOf, { readonly added: readonly string[]; readonly each: readonly string[] }>> = {
  cluster: { added: [], each: ['cluster'] },
  namespace: { added: [], each: ['cluster', OBJECT_LABELS.namespace] },
  workload: { added: ['workload', 'kind'], each: ['cluster', OBJECT_LABELS.namespace, 'workload', 'kind'] },
  pod: { added: ['pod'], each: ['cluster', OBJECT_LABELS.namespace, 'pod'] },
  container: { added: ['pod'], each: ['cluster', OBJECT_LABELS.namespace, 'pod', OBJECT_LABELS.container] },
  node: { added: [], each: ['cluster', OBJECT_LABELS.node] },
};
const COLUMNS: Readonly<
  Record<string, { readonly pods: string | null; readonly nodes: string | null; readonly counts?: true }>
> = {
  cpu: { pods: 'container.cpu.time', nodes: 'node.cpu.time', counts: true },
  cpuRequest: { pods: 'container.cpu.request', nodes: null },
  cpuLimit: { pods: 'container.cpu.limit', nodes: 'node.cpu.allocatable' },
  memory: { pods: 'container.memory.working_set', nodes: 'node.memory.working_set' },
  memoryRequest: { pods: 'container.memory.request', nodes: null },
  memoryLimit: { pods: 'container.memory.limit', nodes: 'node.memory.allocatable' },
  restarts: { pods: 'container.restarts', nodes: null },
  throttled: { pods: 'container.cpu.throttled', nodes: null, counts: true },
};
/** The measure of a column of Usage's table: a line for each row. Null where a column has none. */
export function columnMeasure(column: string, level: EachOf, place: MeasuredPlace): string | null {
  const own = Object.hasOwn(COLUMNS, column) ? COLUMNS[column] : undefined;
  const source = level === 'node' ? own?.nodes : own?.pods;
  if (own === undefined || source == null) return null;
  const { added, each } = LABELS_OF[level];
  const narrowed = level === 'node' ? nodeItself(place) : inside(place);
  return printMeasure(
    alone(
      chain(
        vital(source),
        ...narrowed,
        ...(added.length === 0 ? [] : [{ step: 'add labels', labels: added } as const]),
        ...(own.counts ? [perSecond(300_000)] : []),
        { step: 'across', what: 'total', across: { each } },
      ),
    ),
  );
}

/** Use against its limit, a line for each container that has one. */
export function shareOfLimitEach(resource: 'cpu' | 'memory'): string {
  const { added, each } = LABELS_OF.container;
  const ofEach = (source: string, ...more: readonly Step[]): Chain =>
    chain(vital(source), { step: 'add labels', labels: added }, ...more, {
      step: 'across',
      what: 'total',
      across: { each },
    });
  const use =
    resource === 'cpu' ? ofEach('container.cpu.time', perSecond(300_000)) : ofEach('container.memory.working_set');
  return printMeasure(share(use, ofEach(`container.${resource}.limit`)));
}
/** Ready against desired pods, a line for each workload. */
export const readyOfDesiredEach = (): string =>
  printMeasure({
    bindings: [
      { name: 'ready', chain: chain(vital('workload.ready')) },
      { name: 'desired', chain: chain(vital('workload.desired')) },
    ],
    result: { is: 'show', expression: divided(name('ready'), name('desired')), as: 'percent' },
  });

/** Whoever was answered within it is satisfied; a measure to begin with, until somebody says another. */
const TARGET: Amount = { value: 500, unit: 'ms' };

/** What programs tell of the requests that they answer; `failed`: what their failures bear, null where that cannot be said in one condition. */
export function requestMeasures(
  { count, buckets }: RequestSource,
  place: MeasuredPlace,
  { apart, failed }: { readonly apart: DurationMs; readonly failed: Condition | null },
): {
  readonly requests: string;
  readonly failures: string | null;
  readonly latency: string | null;
  readonly satisfaction: string | null;
} {
  const counted = (...more: readonly Condition[]) =>
    chain({ is: 'metric', name: count }, ...inside(place, more), perSecond(apart), total);
  const histogram = buckets?.replace(/_bucket$/, '') ?? null;
  const ofBuckets = (step: Step): string | null =>
    histogram &&
    printMeasure(alone(chain({ is: 'metric', name: histogram }, ...inside(place), perSecond(apart), step)));
  return {
    requests: printMeasure(alone(counted())),
    failures:
      failed === null
        ? null
        : printMeasure({
            bindings: [
              {
                name: 'failed',
                chain: { ...counted(failed), steps: [...counted(failed).steps, { step: 'missing counts 0' }] },
              },
              { name: 'all', chain: counted() },
            ],
            result: { is: 'show', expression: divided(name('failed'), name('all')), as: 'percent' },
          }),
    latency: ofBuckets({ step: 'percentile of buckets', percentile: 95, across: OVERALL }),
    satisfaction: ofBuckets({ step: 'satisfaction', target: TARGET, across: OVERALL }),
  };
}

/** A measure to begin with, of a vital of any kind. */
export function vitalMeasure(own: string, counts: boolean): string {
  return printMeasure(alone(chain(vital(own), ...(counts ? [perSecond(300_000)] : []))));
}
