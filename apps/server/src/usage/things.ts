import type { SheetAnswer } from '@zetopsis/contract';
import {
  autoscalerFindings,
  claimFindings,
  type Finding,
  quotaFindings,
  volumeFindings,
} from '@zetopsis/core/findings';
import { formatBytes, formatClock, formatCount } from '@zetopsis/core/format';
import type { InventoryKind, InventoryObject, PodObject } from '@zetopsis/core/inventory';
import { listed } from './lines.ts';
import { objectKey, readThing, volumeKey, volumeOf } from './objectPaths.ts';
import { quotaLine, type Telling, volumeLine } from './related.ts';
import { scaledFlows, TARGETS } from './scaledFlows.ts';
import { selects } from './selects.ts';
import type { SeenUsage } from './usage.service.ts';
import { claimKey, entriesOf, type VolumeRead } from './volumesRead.ts';

/** Something that uses nothing itself, as a sheet tells of it. */
export interface Thing {
  readonly object: InventoryObject;
  readonly findings: readonly Finding[];
  readonly facts: SheetAnswer['facts'];
  readonly tables: SheetAnswer['tables'];
  readonly volumes: SheetAnswer['volumes'];
  readonly quotas: SheetAnswer['quotas'];
  readonly related: SheetAnswer['related'];
  readonly flows: SheetAnswer['flows'];
}
type Fact = SheetAnswer['facts'][number];
type Table = SheetAnswer['tables'][number];
type ServiceObject = Extract<InventoryObject, { kind: 'service' }>;
type Parts = Partial<Omit<Thing, 'object'>>;

const fact = (name: string, text: string | number | null): Fact[] =>
  text === null || text === '' ? [] : [{ name, text: String(text) }];
const pairs = (labels: Readonly<Record<string, string>>): string =>
  Object.entries(labels)
    .map(([key, value]) => `${key}=${value}`)
    .join(', ');

/** Null when the path names no such thing; undefined when it does and nothing of that name is there. */
export function findThing(
  usage: SeenUsage,
  path: readonly string[],
  other: SeenUsage | null,
  telling: Telling,
): Thing | null | undefined {
  const volume = path.length === 2 ? volumeOf(path[1]) : null;
  if (volume !== null) {
    const object = usage.view.inventory.list('persistent volume').find(({ name }) => name === volume);
    // a volume tells whose claim has it: shown to who may see that namespace
    if (!object || (object.claim && !usage.sees(object.claim.namespace))) return undefined;
    return whole(object, partsOf(usage, object, other, telling), usage, telling);
  }
  const [, namespace = '', part] = path;
  const named = path.length === 3 && part !== undefined ? readThing(part) : null;
  if (!named) return null;
  const object = usage.view.inventory.named(named.kind, namespace, named.name);
  return object ? whole(object, partsOf(usage, object, other, telling), usage, telling) : undefined;
}

function whole(object: InventoryObject, parts: Parts, usage: SeenUsage, { at, zone }: Telling): Thing {
  const change = usage.view.inventory.lastChange(object.uid);
  const changed =
    change === null
      ? []
      : fact(
          'last changed',
          [formatClock(change.at, at, { zone }), change.words, change.who === null ? '' : `by ${change.who}`]
            .filter((part) => part !== '')
            .join(', '),
        );
  return {
    object,
    findings: parts.findings ?? [],
    facts: [...(parts.facts ?? []), ...changed],
    tables: parts.tables ?? [],
    volumes: parts.volumes ?? [],
    quotas: parts.quotas ?? [],
    related: parts.related ?? [],
    flows: parts.flows ?? [],
  };
}

function partsOf(usage: SeenUsage, object: InventoryObject, other: SeenUsage | null, telling: Telling): Parts {
  switch (object.kind) {
    case 'service':
      return serviceParts(usage, object);
    case 'persistent volume': {
      const claim = object.claim;
      return {
        ...(claim ? claimParts(usage, other, claim.namespace, claim.name) : {}),
        facts: [
          ...fact('size', object.capacity === null ? null : formatBytes(object.capacity)),
          ...fact('phase', object.phase),
          ...fact('storage class', object.storageClass),
          ...fact('when its claim goes', object.reclaim),
        ],
        related: claim ? [relatedLine(usage, 'volume claim', claim.namespace, claim.name, 'has it')] : [],
      };
    }
    case 'volume claim': {
      const parts = claimParts(usage, other, object.namespace ?? '', object.name);
      return {
        ...parts,
        findings: [...claimFindings(object, telling.at), ...(parts.findings ?? [])],
        facts: [
          ...fact('phase', object.phase),
          ...fact('asked for', object.requested === null ? null : formatBytes(object.requested)),
          ...fact('storage class', object.storageClass),
        ],
        related: [
          ...(object.volume === null
            ? []
            : [
                {
                  kind: 'persistent volume',
                  name: object.volume,
                  path: [usage.name, volumeKey(object.volume)],
                  words: 'its volume',
                  severity: null,
                },
              ]),
          ...podLines(
            usage,
            object.namespace ?? '',
            (pod) => pod.volumes?.some(({ claim }) => claim === object.name) ?? false,
            'mounts it',
          ),
        ],
      };
    }
    case 'quota':
      return { findings: quotaFindings(object), quotas: [quotaLine(usage.name, object)] };
    case 'limit range':
      return {
        tables: [
          {
            title: 'Bounds',
            columns: ['of', 'resource', 'least', 'most', 'request', 'limit'],
            rows: object.rows.map(({ of, resource, least, most, request, limit }) => [
              of,
              resource,
              ...[least, most, request, limit].map((bound) => bound ?? '–'),
            ]),
          },
        ],
        facts: fact('says', 'what containers get that ask for nothing, and how little and much they may ask for'),
      };
    case 'autoscaler':
      return {
        findings: autoscalerFindings(object),
        flows: scaledFlows(usage, object),
        related: (['deployment', 'stateful set', 'replica set'] as const)
          .filter((kind) => TARGETS[kind] === object.target.kind)
          .flatMap((kind) => usage.view.inventory.named(kind, object.namespace ?? '', object.target.name) ?? [])
          .map(({ kind, name }) => relatedLine(usage, kind, object.namespace ?? '', name, 'scaled by it')),
        facts: [
          ...fact('scales', `${object.target.kind} ${object.target.name}`),
          ...fact('pods', `${object.current} now, ${object.desired} wanted, ${object.least} to ${object.most} allowed`),
          ...fact('follows', object.follows.join('; ')),
          ...fact(
            'last scaled',
            object.lastScaledAt === null
              ? 'never'
              : formatClock(object.lastScaledAt, telling.at, { zone: telling.zone }),
          ),
        ],
      };
    case 'disruption budget':
      return {
        related: podLines(usage, object.namespace ?? '', (pod) => selects(object.selector, pod), 'guarded by it'),
        facts: [
          ...fact('may be disrupted now', formatCount(object.allowed, 'pod')),
          ...fact('healthy', `${object.healthy}, ${object.wanted} must stay`),
          ...fact('at least available', object.leastAvailable),
          ...fact('at most unavailable', object.mostUnavailable),
          ...fact('selects', pairs(object.selector)),
        ],
      };
    case 'config map':
      return {
        facts: fact('values', 'are never kept: only whether a key changed'),
        tables: [keysTable(Object.keys(object.keys))],
        related: usersOf(usage, object.namespace ?? '', 'configMaps', object.name),
      };
    case 'secret':
      return {
        facts: fact('content', 'is never read: only that it is there and when it got a new version'),
        related: usersOf(usage, object.namespace ?? '', 'secrets', object.name),
      };
    case 'node':
    case 'namespace':
    case 'pod':
    case 'deployment':
    case 'stateful set':
    case 'daemon set':
    case 'replica set':
    case 'job':
    case 'cron job':
    case 'endpoint slice':
      return {};
  }
}

const keysTable = (keys: readonly string[]): Table => ({
  title: 'Keys',
  columns: ['key'],
  rows: [...keys].sort().map((key) => [key]),
});

const relatedLine = (usage: SeenUsage, kind: InventoryKind, namespace: string, name: string, words: string) => ({
  kind,
  name,
  path: [usage.name, namespace, objectKey({ kind, name })],
  words,
  severity: null,
});

/** Workloads whose pods read or mount it. */
function usersOf(
  usage: SeenUsage,
  namespace: string,
  of: 'configMaps' | 'secrets',
  name: string,
): SheetAnswer['related'] {
  const { inventory } = usage.view;
  return (['deployment', 'stateful set', 'daemon set', 'cron job', 'job'] as const)
    .flatMap((kind) => inventory.list(kind))
    .filter((workload) => workload.namespace === namespace && (workload.kind !== 'job' || !workload.owner))
    .filter((workload) => workload.uses?.[of].includes(name))
    .map((workload) => relatedLine(usage, workload.kind, namespace, workload.name, 'uses it'));
}
const podLines = (
  usage: SeenUsage,
  namespace: string,
  matches: (pod: PodObject) => boolean,
  words: string,
): SheetAnswer['related'] =>
  usage.view.inventory
    .list('pod')
    .filter((pod) => pod.namespace === namespace && matches(pod))
    .map((pod) => {
      const workload = usage.view.inventory.workloadOf(pod);
      return {
        kind: 'pod',
        name: pod.name,
        path: [usage.name, namespace, objectKey(workload as { kind: InventoryKind; name: string }), pod.name], // "lone pod" and "other" are written alike
        words,
        severity: null,
      };
    });

function claimParts(usage: SeenUsage, other: SeenUsage | null, namespace: string, claim: string): Parts {
  const read = usage.volumes.get(claimKey(namespace, claim));
  const then = other?.volumes.get(claimKey(namespace, claim)) ?? null;
  return {
    findings: read
      ? volumeFindings(claim, {
          use: read.volume.usage.use,
          size: read.volume.usage.limit,
          fullIn: read.fullIn,
          entries: entriesOf(read.volume),
        })
      : [],
    volumes: read ? [volumeLine(usage.name, read)] : [],
    flows: [volumeFlow(read, then), ...entriesFlow(read, then)],
  };
}
const volumeFlow = (read: VolumeRead | undefined, then: VolumeRead | null): SheetAnswer['flows'][number] => ({
  title: 'Used on the volume',
  unit: 'bytes',
  lines: read
    ? [{ name: 'used', values: listed(read.volume.use), against: then ? listed(then.volume.use) : null }]
    : [],
  limit: read ? listed(read.volume.size) : null,
  empty: read
    ? null
    : 'Never read: the node that mounts it tells its use, and no running pod mounts it in this window.',
});

/** Pods of the window that a service sends to. */
export const behind = ({ view }: SeenUsage, { namespace, selector }: ServiceObject): PodObject[] =>
  view.pods
    .filter(({ workload, pod }) => workload.namespace === (namespace ?? '') && selects(selector, pod))
    .map(({ pod }) => pod);

function entriesFlow(read: VolumeRead | undefined, then: VolumeRead | null): SheetAnswer['flows'] {
  const entries = read && entriesOf(read.volume);
  if (!read || entries?.used == null) return [];
  return [
    {
      title: 'File entries (inodes)',
      unit: 'count',
      lines: [
        {
          name: 'used',
          values: listed(read.volume.entriesUsed),
          against: then ? listed(then.volume.entriesUsed) : null,
        },
      ],
      limit: listed(read.volume.entries),
      empty: null,
    },
  ];
}

function serviceParts(usage: SeenUsage, service: ServiceObject): Parts {
  const slices = usage.view.inventory
    .list('endpoint slice')
    .filter((slice) => slice.namespace === service.namespace && slice.service === service.name);
  const endpoints = slices.flatMap((slice) => slice.endpoints);
  const ready = endpoints.filter((endpoint) => endpoint.ready).length;
  const selecting = Object.keys(service.selector).length > 0;
  return {
    facts: [
      ...fact('type', service.type),
      ...fact('address', service.address),
      ...fact('selects', selecting ? pairs(service.selector) : 'nothing; its endpoints are given by hand'),
      ...fact('endpoints', `${ready} of ${endpoints.length} ready`),
    ],
    tables: [
      {
        title: 'Ports',
        columns: ['name', 'port', 'goes to', 'protocol'],
        rows: service.ports.map(({ name, port, target, protocol }) => [name || '–', String(port), target, protocol]),
      },
      {
        title: 'Endpoints',
        columns: ['pod', 'address', 'node', 'ready'],
        rows: endpoints.map(({ pod, address, node, ready: own }) => [
          pod ?? '–',
          address,
          node ?? '–',
          own ? 'yes' : 'no',
        ]),
      },
    ],
    related: podLines(usage, service.namespace ?? '', (pod) => selects(service.selector, pod), 'answers for it'),
  };
}
