import { Injectable } from '@nestjs/common';
import type { FindAnswer } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { Ranking } from '@zetopsis/core/find';
import { INVENTORY_KINDS, type InventoryObject, type PodObject, workloadKey } from '@zetopsis/core/inventory';
import { ConnectionsService } from '../connections/connections.service.ts';
import { InventoryService } from '../inventory/inventory.service.ts';
import { inPieces } from '../platform/inPieces.ts';
import { SharedWork } from '../platform/question.ts';
import { Clock } from '../platform/settings.ts';
import { RulesService } from '../rules/rules.service.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import { HostsService } from '../usage/hosts.service.ts';
import { hostKey, nodeKey, objectKey, volumeKey } from '../usage/objectPaths.ts';

const MOST = 40;
/** What went is read from the database, and found as it was for this long. */
const PAST_HOLDS = 30_000;

type Found = FindAnswer['found'][number] & { readonly gone: boolean };

interface Past {
  readonly object: InventoryObject;
  readonly found: Found;
}

/** Whose an object's name is: all see the nodes that they share; a namespace is itself, and a volume its claim's. */
function placeOf(object: InventoryObject): { is: 'shared' } | { is: 'space'; namespace: string } | { is: 'nobody' } {
  if (object.kind === 'node') return { is: 'shared' };
  if (object.kind === 'namespace') return { is: 'space', namespace: object.name };
  const namespace = object.kind === 'persistent volume' ? (object.claim?.namespace ?? null) : object.namespace;
  return namespace === null ? { is: 'nobody' } : { is: 'space', namespace };
}

/** Every object, those of the past too, by name. */
@Injectable()
export class FindService {
  private readonly past = new Map<string, { at: number; found: SharedWork<readonly Past[]> }>();

  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly endpoints: EndpointsService,
    private readonly hosts: HostsService,
    private readonly rules: RulesService,
    private readonly clock: Clock,
  ) {}

  async find(reach: Reach, typed: string): Promise<FindAnswer> {
    if (typed === '') return { found: [], lookedAt: 0 };
    const ranking = new Ranking<Found>(typed);
    let lookedAt = 0;
    const add = (candidate: Found) => {
      ranking.add(candidate);
      lookedAt++;
    };
    for (const id of this.connections.ids()) {
      const cluster = this.connections.nameOf(id);
      if (!reach.touches(cluster)) continue;
      add(entry('cluster', cluster, [cluster], ''));
      const inventory = this.inventory.cluster(id);
      const whole = reach.whole(cluster);
      const sees = (object: InventoryObject) => {
        const place = placeOf(object);
        return whole || (place.is === 'shared' ? true : place.is === 'space' && reach.reads(cluster, place.namespace));
      };
      for (const kind of KINDS)
        await inPieces(inventory.list(kind), (object) => {
          if (!sees(object)) return;
          const path = pathOf(cluster, object, (pod) => workloadKey(inventory.workloadOf(pod)));
          if (path) add(entry(object.kind, object.name, path, whereOf(path)));
        });
      await inPieces(await this.pastOf(id, cluster), ({ object, found }) => {
        if (sees(object)) add(found);
      });
    }
    for (const name of this.hosts.names(reach)) add(entry('host', name, [hostKey(name)], 'outside all clusters'));
    for (const endpoint of this.endpoints.list(reach))
      if (endpoint.kind !== 'node')
        add(entry('endpoint', endpoint.name, [], endpoint.connection ?? 'outside all clusters'));
    for (const { name } of await this.rules.list()) add(entry('rule', name, [], 'Rules'));
    return {
      found: ranking.best(MOST).map(({ gone: _gone, ...found }) => found),
      lookedAt,
    };
  }

  private pastOf(id: string, cluster: string): Promise<readonly Past[]> {
    const now = this.clock.now();
    const known = this.past.get(id);
    if (known && now - known.at < PAST_HOLDS && !known.found.abandoned) return known.found.wait();
    const found = new SharedWork<readonly Past[]>(`what is gone from ${cluster}`, async () => {
      try {
        return await this.readPast(id, cluster);
      } catch (error) {
        this.past.delete(id);
        throw error;
      }
    });
    this.past.set(id, { at: now, found });
    return found.wait();
  }
  private async readPast(id: string, cluster: string): Promise<Past[]> {
    const current = this.inventory.cluster(id);
    const gone = (await this.inventory.gone(id, KINDS)).filter(({ object }) => current.get(object.uid) === undefined);
    const byUid = new Map(gone.map(({ object }) => [object.uid, object]));
    const past: Past[] = [];
    await inPieces(gone, ({ object, to }) => {
      // a pod's replica set may have gone with it
      const key = (pod: PodObject) => workloadKey(current.workloadOf(pod, (uid) => byUid.get(uid)));
      const path = pathOf(cluster, object, key);
      if (path)
        past.push({
          object,
          found: { ...entry(object.kind, object.name, path, whereOf(path)), goneAt: to, gone: true },
        });
    });
    return past;
  }
}

/** Slices of endpoints are parts of services, and replica sets parts of deployments: nobody looks for them. */
const KINDS = INVENTORY_KINDS.filter((kind) => kind !== 'endpoint slice' && kind !== 'replica set');

const entry = (kind: string, name: string, path: string[], where: string): Found => ({
  kind,
  name,
  path,
  where,
  goneAt: null,
  gone: false,
});
const whereOf = (path: readonly string[]): string =>
  path
    .slice(0, -1)
    .map((part) => part.slice(part.indexOf(':') + 1))
    .join(' › ');

function pathOf(cluster: string, object: InventoryObject, keyOf: (pod: PodObject) => string): string[] | null {
  const namespace = object.namespace ?? '';
  switch (object.kind) {
    case 'node':
      return [cluster, nodeKey(object.name)];
    case 'namespace':
      return [cluster, object.name];
    case 'persistent volume':
      return [cluster, volumeKey(object.name)];
    case 'pod':
      return [cluster, namespace, keyOf(object), object.name];
    case 'job':
      // a run stands in its schedule's sheet
      return object.owner ? null : [cluster, namespace, workloadKey({ kind: 'job', name: object.name })];
    case 'deployment':
    case 'stateful set':
    case 'daemon set':
    case 'cron job':
    case 'replica set':
      return [cluster, namespace, workloadKey({ kind: object.kind, name: object.name })];
    default:
      return [cluster, namespace, objectKey(object)];
  }
}
