import { pathOfObject, type QuotaLine, type RelatedLine, type SheetAnswer, writePath } from '@zetopsis/contract';
import { worstSeverity } from '@zetopsis/core/findings';
import { formatBytes, formatClock, formatCount } from '@zetopsis/core/format';
import type {
  AnyWorkload,
  AutoscalerObject,
  ConfigMapObject,
  DisruptionBudgetObject,
  InventoryObject,
  QuotaObject,
  SecretObject,
  ServiceObject,
} from '@zetopsis/core/inventory';
import { byTightness } from '@zetopsis/core/usage';
import type { VolumeRead } from '../cluster/index.ts';
import { selects } from '../cluster/index.ts';
import type { ClusterColumns } from '../columns/index.ts';
import { usedBy } from '../marks/index.ts';
import type { SeenUsage } from '../usage/index.ts';
import type { MeasuredObject } from './measured.ts';

const MOST = 60;

export interface Around {
  readonly volumes: SheetAnswer['volumes'];
  readonly quotas: SheetAnswer['quotas'];
  readonly related: SheetAnswer['related'];
  readonly left: number;
}
export interface Telling {
  readonly at: number;
  readonly zone: string;
}

type Bound = QuotaObject | AutoscalerObject | DisruptionBudgetObject | ConfigMapObject | SecretObject | ServiceObject;
type Told = Bound | Extract<InventoryObject, { kind: 'limit range' | 'volume claim' }>;

/** What stands around an object: volumes, quotas, and everything that belongs to it or that it uses. */
export function around({
  usage,
  columns,
  found,
  telling,
}: {
  readonly usage: SeenUsage;
  readonly columns: ClusterColumns;
  readonly found: MeasuredObject;
  readonly telling: Telling;
}): Around {
  const { inventory } = usage.view;
  const volumes = [...usage.volumes.values()].filter((volume) => concerns(found, volume));
  const namespace = found.level === 'namespace' ? found.node.name : null;
  const quotas = namespace === null ? [] : inventory.list('quota').filter((quota) => quota.namespace === namespace);
  const related = relatedTo(usage, found).map((object) => lineOf({ usage, columns, object, telling }));
  const onNode = found.level === 'pod' || found.level === 'container' ? nodeLines(usage, found) : [];
  const sets = found.level === 'workload' ? setLines(usage, found, telling) : [];
  return {
    volumes: sorted(volumes)
      .slice(0, MOST)
      .map((volume) => volumeLine(usage.name, volume)),
    quotas: quotas.map((quota) => quotaLine(usage.name, quota)),
    related: [...onNode, ...sets, ...related].slice(0, MOST),
    left: Math.max(0, volumes.length - MOST) + Math.max(0, onNode.length + sets.length + related.length - MOST),
  };
}

function concerns(found: MeasuredObject, { namespace, claim, pod }: VolumeRead): boolean {
  switch (found.level) {
    case 'cluster':
      return true;
    case 'namespace':
      return namespace === found.node.name;
    case 'node':
    case 'team':
    case 'workload':
    case 'pod':
      return found.pods.some(
        (own) =>
          own.uid === pod.pod.uid ||
          (own.namespace === namespace && own.volumes?.some((volume) => volume.claim === claim)),
      );
    case 'container':
    case 'host':
      return false;
  }
}
const sorted = (volumes: readonly VolumeRead[]): VolumeRead[] =>
  [...volumes].sort((a, b) => (b.volume.usage.tightness ?? 0) - (a.volume.usage.tightness ?? 0));

export function volumeLine(
  cluster: string,
  { namespace, claim, pod, volume, fullIn }: VolumeRead,
): SheetAnswer['volumes'][number] {
  return {
    path: writePath(pathOfObject({ cluster, kind: 'volume claim', namespace, name: claim })),
    name: claim,
    usedBy: pod.pod.name,
    figures: volume.usage,
    fullIn,
  };
}
export const quotaLine = (cluster: string, quota: QuotaObject): QuotaLine => ({
  path: writePath(pathOfObject({ cluster, kind: quota.kind, namespace: quota.namespace, name: quota.name })),
  name: quota.name,
  rows: [...quota.rows],
});

/** Of a deployment its replica sets, newest first, each with what it has now; of a replica set what made it. */
function setLines({ name: cluster, view }: SeenUsage, { workload }: MeasuredObject, telling: Telling): RelatedLine[] {
  if (workload === null) return [];
  const namespace = workload.namespace ?? '';
  const line = (kind: 'replica set' | 'deployment', name: string, words: string): RelatedLine => ({
    kind,
    name,
    path: writePath(pathOfObject({ cluster, kind, namespace, name })),
    words,
    severity: null,
  });
  if (workload.kind === 'replica set')
    return workload.owner === null ? [] : [line('deployment', workload.owner.name, 'made it')];
  const sets = view.replicaSets
    .filter(({ owner }) => owner?.uid === workload.uid)
    .sort((a, b) => b.createdAt - a.createdAt);
  return sets.map((set) => {
    const made = `made ${formatClock(set.createdAt, telling.at, { zone: telling.zone })}`;
    const there = view.inventory.get(set.uid);
    const has =
      there?.kind !== 'replica set'
        ? 'gone'
        : there.desired === 0 && there.present === 0
          ? 'kept to go back to'
          : `${there.ready} of ${formatCount(there.desired, 'pod')} ready`;
    const images = set.images.map(({ image }) => image.slice(image.lastIndexOf('/') + 1)).join(', ');
    return line('replica set', set.name, [has, made, images].filter((part) => part !== '').join(' · '));
  });
}

function nodeLines({ name: cluster, view }: SeenUsage, { pods: [pod] }: MeasuredObject): RelatedLine[] {
  if (!pod?.node) return [];
  const there = view.nodes.some(({ node }) => node.name === pod.node);
  return there
    ? [
        {
          kind: 'node',
          name: pod.node,
          path: writePath({ is: 'node', cluster, node: pod.node }),
          words: 'where it runs',
          severity: null,
        },
      ]
    : [];
}

/** Of a namespace: everything beside its workloads. Of a workload or pod: what selects, scales and bounds it, and what it uses. */
function relatedTo({ view: { inventory } }: SeenUsage, found: MeasuredObject): Told[] {
  if (found.level === 'namespace') {
    const inNamespace = <T extends { namespace: string | null }>(objects: readonly T[]) =>
      objects.filter(({ namespace }) => namespace === found.node.name);
    return [
      ...inNamespace(inventory.list('service')),
      ...inNamespace(inventory.list('autoscaler')),
      ...inNamespace(inventory.list('disruption budget')),
      ...inNamespace(inventory.list('limit range')),
      ...inNamespace(inventory.list('volume claim')),
      ...inNamespace(inventory.list('config map')),
      ...inNamespace(inventory.list('secret')),
    ];
  }
  if (found.level !== 'workload' && found.level !== 'pod') return [];
  const namespace = found.workload?.namespace ?? found.pods[0]?.namespace;
  const workload = found.workload ?? workloadOf(inventory, found);
  const [pod] = found.pods;
  if (namespace == null) return [];
  const own = <T extends { namespace: string | null }>(objects: readonly T[]) =>
    objects.filter((object) => object.namespace === namespace);
  return [
    ...(pod ? own(inventory.list('service')).filter(({ selector }) => selects(selector, pod)) : []),
    ...own(inventory.list('autoscaler')).filter(({ target }) => target.name === workload?.name),
    ...(pod ? own(inventory.list('disruption budget')).filter(({ selector }) => selects(selector, pod)) : []),
    ...usedBy(workload?.uses).flatMap(({ kind, name }) => inventory.named(kind, namespace, name) ?? []),
  ];
}
function workloadOf(inventory: SeenUsage['view']['inventory'], { of }: MeasuredObject): AnyWorkload | null {
  const object = of === null ? undefined : inventory.get(of.uid);
  return object && 'uses' in object ? object : null;
}

function lineOf({
  usage,
  columns,
  object,
  telling,
}: {
  readonly usage: SeenUsage;
  readonly columns: ClusterColumns;
  readonly object: Told;
  readonly telling: Telling;
}): RelatedLine {
  const bound = columns.bounds.find(
    ({ namespace, kind, name }) => namespace === object.namespace && kind === object.kind && name === object.name,
  );
  return {
    kind: object.kind,
    name: object.name,
    path: writePath(
      pathOfObject({ cluster: usage.name, kind: object.kind, namespace: object.namespace, name: object.name }),
    ),
    words: inWords(usage, object, telling),
    severity: worstSeverity(bound?.findings ?? []),
  };
}

/** One line on what it is, and when it changed. */
function inWords({ view }: SeenUsage, object: Told, telling: Telling): string {
  const change = view.inventory.lastChange(object.uid);
  const changed = change === null ? '' : `changed ${formatClock(change.at, telling.at, { zone: telling.zone })}`;
  switch (object.kind) {
    case 'service':
      return (
        object.ports
          .map(({ port, target }) => (String(port) === target ? `${port}` : `${port} → ${target}`))
          .join(', ') || object.type
      );
    case 'autoscaler':
      return `${object.current} pods, ${object.least} to ${object.most}`;
    case 'disruption budget':
      return `${formatCount(object.allowed, 'pod')} may be disrupted now`;
    case 'limit range':
      return formatCount(object.rows.length, 'bound');
    case 'volume claim':
      return [
        object.capacity === null ? '' : formatBytes(object.capacity),
        object.phase === 'Bound' ? '' : object.phase,
      ]
        .filter((part) => part !== '')
        .join(', ');
    case 'config map':
      return [formatCount(Object.keys(object.keys).length, 'key'), changed].filter((part) => part !== '').join(', ');
    case 'secret':
      return changed || 'not changed while it was watched';
    case 'quota':
      return formatCount(object.rows.length, 'bound');
  }
}

/** Nodes of a cluster, tightest first by memory. */
export const nodeUsagesOf = (columns: ClusterColumns) =>
  columns
    .nodeUsages()
    .filter(({ present }) => present)
    .sort(byTightness('memory'));
