import { Injectable } from '@nestjs/common';
import {
  EVERYTHING,
  type FindAnswer,
  namesOf,
  type ObjectPath,
  type Person,
  pathOfObject,
  writePath,
} from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { Ranking } from '@zetopsis/core/find';
import { INVENTORY_KINDS, type InventoryObject, type PodObject, type WorkloadName } from '@zetopsis/core/inventory';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { SharedWork } from '../../ground/platform/question.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { EndpointAnswersService } from '../../inflow/scraping/endpointAnswers.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { StretchesService, scopeOf } from '../stretches/stretches.service.ts';
import { HostsService } from '../usage/hosts.service.ts';

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
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly hosts: HostsService,
    private readonly configuration: ConfigurationService,
    private readonly owners: OwnersService,
    private readonly stretches: StretchesService,
    private readonly clock: Clock,
  ) {}

  async find(
    { reach, person }: { readonly reach: Reach; readonly person: Pick<Person, 'name'> },
    typed: string,
  ): Promise<FindAnswer> {
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
      add(entry({ kind: 'cluster', name: cluster, path: { is: 'cluster', cluster } }));
      const inventory = this.inventory.cluster(id);
      const whole = reach.whole(cluster);
      const sees = (object: InventoryObject) => {
        const place = placeOf(object);
        return whole || (place.is === 'shared' ? true : place.is === 'space' && reach.reads(cluster, place.namespace));
      };
      for (const kind of KINDS)
        await inPieces(inventory.list(kind), (object) => {
          if (!sees(object)) return;
          const path = pathOf(cluster, object, (pod) => inventory.workloadOf(pod));
          if (path) add(entry({ kind: object.kind, name: object.name, path }));
        });
      await inPieces(await this.pastOf(id, cluster), ({ object, found }) => {
        if (sees(object)) add(found);
      });
    }
    for (const name of this.hosts.names(reach))
      add(entry({ kind: 'host', name, path: { is: 'host', host: name }, where: 'outside all clusters' }));
    for (const endpoint of this.endpointAnswers.list(reach))
      if (endpoint.kind !== 'node')
        add(
          entry({
            kind: 'endpoint',
            name: endpoint.name,
            path: EVERYTHING,
            where: endpoint.connection ?? 'outside all clusters',
          }),
        );
    for (const [key, { name, team }] of this.configuration.all('rule'))
      if (team === null || reach.mayEverywhere('read') || this.owners.isMember(person.name, team))
        add({ ...entry({ kind: 'rule', name, path: EVERYTHING, where: 'Rules' }), key });
    for (const { document } of this.stretches.within({ reach, person }, 0, Number.MAX_SAFE_INTEGER)) {
      const { title, kind, from, to } = document;
      add({
        ...entry({ kind: 'stretch', name: title, path: scopeOf(document), where: kind }),
        span: { from: Date.parse(from), to: to === null ? null : Date.parse(to) },
      });
    }
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
      const path = pathOf(cluster, object, (pod) => current.workloadOf(pod, (uid) => byUid.get(uid)));
      if (path)
        past.push({
          object,
          found: { ...entry({ kind: object.kind, name: object.name, path }), goneAt: to, gone: true },
        });
    });
    return past;
  }
}

/** Slices of endpoints are parts of services, and replica sets parts of deployments: nobody looks for them. */
const KINDS = INVENTORY_KINDS.filter((kind) => kind !== 'endpoint slice' && kind !== 'replica set');

const entry = ({
  kind,
  name,
  path,
  where = whereOf(path),
}: {
  readonly kind: string;
  readonly name: string;
  readonly path: ObjectPath;
  readonly where?: string;
}): Found => ({
  kind,
  name,
  path: writePath(path),
  where,
  goneAt: null,
  gone: false,
});
const whereOf = (path: ObjectPath): string => namesOf(path).slice(0, -1).join(' › ');

function pathOf(
  cluster: string,
  object: InventoryObject,
  workloadOf: (pod: PodObject) => WorkloadName,
): ObjectPath | null {
  const { kind, name, namespace } = object;
  if (kind === 'pod')
    return { is: 'pod', cluster, namespace: namespace ?? '', workload: workloadOf(object), node: null, pod: name };
  // a run stands in its schedule's sheet
  if (kind === 'endpoint slice' || (kind === 'job' && object.owner)) return null;
  return pathOfObject({ cluster, kind, namespace, name });
}
