import { type ObjectPath, type SheetAnswer, writePath } from '@zetopsis/contract';
import type { Finding } from '@zetopsis/core/findings';
import { formatBytes, formatClock, formatCount } from '@zetopsis/core/format';
import type { InventoryObject, PodObject } from '@zetopsis/core/inventory';
import type { EpochMs } from '@zetopsis/core/units';
import { selects } from '../cluster/index.ts';
import type { SeenUsage } from '../usage/index.ts';
import { claimParts } from './claimParts.ts';
import { quotaLine, type Telling } from './related.ts';
import { podLines, relatedLine, usersOf } from './relatedLines.ts';
import { scaledFlows, TARGETS } from './scaledFlows.ts';

/** Something that uses nothing itself, as a sheet tells of it. */
export interface Accessory {
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
type Parts = Partial<Omit<Accessory, 'object' | 'findings'>>;

const fact = (name: string, text: string | number | null): Fact[] =>
  text === null || text === '' ? [] : [{ name, text: String(text) }];
const pairs = (labels: Readonly<Record<string, string>>): string =>
  Object.entries(labels)
    .map(([key, value]) => `${key}=${value}`)
    .join(', ');

/** Null when the path names no such thing; undefined when it does and nothing of that name is there. */
export function findAccessory({
  usage,
  path,
  other,
  telling,
}: {
  readonly usage: SeenUsage;
  readonly path: ObjectPath;
  readonly other: SeenUsage | null;
  readonly telling: Telling;
}): Accessory | null | undefined {
  if (path.is === 'persistent volume') {
    const object = usage.view.inventory.list('persistent volume').find(({ name }) => name === path.volume);
    // a volume tells whose claim has it: shown to who may see that namespace
    if (!object || (object.claim && !usage.sees(object.claim.namespace))) return undefined;
    return whole({ object, parts: partsOf({ usage, object, other, telling }), usage, telling });
  }
  if (path.is !== 'accessory') return null;
  const object = usage.view.inventory.named(path.kind, path.namespace, path.name);
  return object ? whole({ object, parts: partsOf({ usage, object, other, telling }), usage, telling }) : undefined;
}

function whole({
  object,
  parts,
  usage,
  telling: { at, zone },
}: {
  readonly object: InventoryObject;
  readonly parts: Parts;
  readonly usage: SeenUsage;
  readonly telling: Telling;
}): Accessory {
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
    findings: foundOf(usage, object, at),
    facts: [...(parts.facts ?? []), ...changed],
    tables: parts.tables ?? [],
    volumes: parts.volumes ?? [],
    quotas: parts.quotas ?? [],
    related: parts.related ?? [],
    flows: parts.flows ?? [],
  };
}

/** What was found of it in its cluster; of a volume what was found of the claim that has it. */
function foundOf(usage: SeenUsage, object: InventoryObject, at: EpochMs): readonly Finding[] {
  const claim = object.kind === 'persistent volume' ? object.claim : null;
  const { kind, namespace, name } = claim ? { kind: 'volume claim' as const, ...claim } : object;
  const { bounds } = usage.details.findings(usage, at);
  return (
    bounds.find((own) => own.kind === kind && own.namespace === (namespace ?? '') && own.name === name)?.findings ?? []
  );
}

function partsOf({
  usage,
  object,
  other,
  telling,
}: {
  readonly usage: SeenUsage;
  readonly object: InventoryObject;
  readonly other: SeenUsage | null;
  readonly telling: Telling;
}): Parts {
  switch (object.kind) {
    case 'service':
      return serviceParts(usage, object);
    case 'persistent volume': {
      const claim = object.claim;
      return {
        ...(claim ? claimParts({ usage, other, namespace: claim.namespace, claim: claim.name }) : {}),
        facts: [
          ...fact('size', object.capacity === null ? null : formatBytes(object.capacity)),
          ...fact('phase', object.phase),
          ...fact('storage class', object.storageClass),
          ...fact('when its claim goes', object.reclaim),
        ],
        related: claim
          ? [
              relatedLine({
                usage,
                kind: 'volume claim',
                namespace: claim.namespace,
                name: claim.name,
                words: 'has it',
              }),
            ]
          : [],
      };
    }
    case 'volume claim': {
      return {
        ...claimParts({ usage, other, namespace: object.namespace ?? '', claim: object.name }),
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
                  path: writePath({ is: 'persistent volume', cluster: usage.name, volume: object.volume }),
                  words: 'its volume',
                  severity: null,
                },
              ]),
          ...podLines({
            usage,
            namespace: object.namespace ?? '',
            matches: (pod) => pod.volumes?.some(({ claim }) => claim === object.name) ?? false,
            words: 'mounts it',
          }),
        ],
      };
    }
    case 'quota':
      return { quotas: [quotaLine(usage.name, object)] };
    case 'limit range':
      return {
        tables: [
          {
            title: 'Bounds',
            columns: ['of', 'resource', 'least', 'most', 'request', 'limit'],
            rows: object.rows.map(({ of, resource, least, most, request, limit }) => [
              of,
              resource,
              ...[least, most, request, limit].map((bound) => bound ?? 'unset'),
            ]),
          },
        ],
        facts: fact('says', 'what containers get that ask for nothing, and how little and much they may ask for'),
      };
    case 'autoscaler':
      return {
        flows: scaledFlows(usage, object),
        related: (['deployment', 'stateful set', 'replica set'] as const)
          .filter((kind) => TARGETS[kind] === object.target.kind)
          .flatMap((kind) => usage.view.inventory.named(kind, object.namespace ?? '', object.target.name) ?? [])
          .map(({ kind, name }) =>
            relatedLine({ usage, kind, namespace: object.namespace ?? '', name, words: 'scaled by it' }),
          ),
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
        related: podLines({
          usage,
          namespace: object.namespace ?? '',
          matches: (pod) => selects(object.selector, pod),
          words: 'guarded by it',
        }),
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
        related: usersOf({ usage, namespace: object.namespace ?? '', of: 'configMaps', name: object.name }),
      };
    case 'secret':
      return {
        facts: fact('content', 'is never read: only that it is there and when it got a new version'),
        related: usersOf({ usage, namespace: object.namespace ?? '', of: 'secrets', name: object.name }),
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

/** Pods of the window that a service sends to. */
export const behind = ({ view }: SeenUsage, { namespace, selector }: ServiceObject): PodObject[] =>
  view.pods
    .filter(({ workload, pod }) => workload.namespace === (namespace ?? '') && selects(selector, pod))
    .map(({ pod }) => pod);

/** How a port is reached from outside the cluster: at the service's own addresses there, and at each node. */
const wayIn = ({ outside = [] }: ServiceObject, port: number, nodePort: number | null): string =>
  [...outside.map((address) => `${address}:${port}`), ...(nodePort === null ? [] : [`any node:${nodePort}`])].join(
    ', ',
  ) || 'not at all';

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
        columns: ['name', 'from outside', 'port', 'goes to', 'protocol'],
        rows: service.ports.map(({ name, port, target, protocol, nodePort }) => [
          name || 'unnamed',
          wayIn(service, port, nodePort ?? null),
          String(port),
          `pods’ ${target || port}`,
          protocol,
        ]),
      },
      {
        title: 'Endpoints',
        columns: ['pod', 'address', 'node', 'ready'],
        rows: endpoints.map(({ pod, address, node, ready: own }) => [
          pod ?? 'no pod',
          address,
          node ?? 'not told',
          own ? 'yes' : 'no',
        ]),
      },
    ],
    related: podLines({
      usage,
      namespace: service.namespace ?? '',
      matches: (pod) => selects(service.selector, pod),
      words: 'answers for it',
    }),
  };
}
