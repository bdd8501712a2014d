import { Injectable } from '@nestjs/common';
import { ClusterColumns, uidsOf } from '@zetopsis/answers/columns';
import { concerns, inTime, mayTell } from '@zetopsis/answers/runningOut';
import {
  type Accessory,
  accessorySheet,
  behind,
  counterpart,
  find,
  findAccessory,
  type MeasuredObject,
  measuredPlace,
  placeOfPods,
  type SheetInput,
  scaledPods,
  usageSheet,
} from '@zetopsis/answers/sheet';
import type { SeenUsage, Window } from '@zetopsis/answers/usage';
import {
  type LogAnswer,
  type LogQuery,
  namespaceOf,
  type ObjectPath,
  placeOf,
  type SheetAnswer,
  type VersionsAnswer,
  type WindowQuery,
} from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { formatClock } from '@zetopsis/core/format';
import type { PodObject } from '@zetopsis/core/inventory';
import { type InventoryKind, workloadKey } from '@zetopsis/core/inventory';
import type { MeasuredPlace } from '@zetopsis/core/measures';
import type { z } from 'zod';
import { demand } from '../../ground/guard/demand.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { AlertsService } from '../../keeping/alerts/alerts.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { AnsweredRequests } from './answeredRequests.service.ts';
import { FlowsService } from './flows.service.ts';
import { HostsService } from './hosts.service.ts';
import { ProcessesService } from './processes.service.ts';
import { RunningOutService } from './runningOut.service.ts';
import { UsageService } from './usage.service.ts';
import { versionLines } from './versionLines.ts';

const MOST_TOLD = 8;
const MOST_VERSIONS = 40;
const LOG_LINES = 50;
const LOG_WIDTH = 4000;

/** Everything known of one object: its sheet, its versions, its last lines. */
@Injectable()
export class SheetsService {
  constructor(
    private readonly usage: UsageService,
    private readonly flows: FlowsService,
    private readonly hosts: HostsService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly owners: OwnersService,
    private readonly alerts: AlertsService,
    private readonly runningOut: RunningOutService,
    private readonly requests: AnsweredRequests,
    private readonly processes: ProcessesService,
    private readonly settings: Settings,
    private readonly clock: Clock,
  ) {}

  async sheet({
    reach,
    path,
    query,
    shift,
  }: {
    readonly reach: Reach;
    readonly path: ObjectPath;
    readonly query: WindowQuery;
    readonly shift: number | undefined;
  }): Promise<SheetAnswer> {
    const window = this.usage.window(query.from, query.to);
    if (path.is === 'host')
      return this.hosts.sheet({ reach, name: path.host, window, against: this.usage.against(window, shift) });
    const usage = await this.usage.ofPath(reach, path, window);
    // of the very length that the first has, so that both are drawn on one grid
    const against = this.usage.against(usage.window, shift);
    const other = against === null ? null : await this.usage.ofPath(reach, path, against);
    const telling = { at: window.to, zone: this.settings.config.zone };
    const alerts = await this.alerts.within({ reach, from: window.from, to: window.to });
    const columns = new ClusterColumns(usage, window.to, null, this.owners.ofCluster(usage.name));
    const thing = findAccessory({ usage, path, other, telling });
    const found = thing === null ? find({ usage, columns, path, to: window.to }) : null;
    if (!thing && !found) throw await this.notThere(usage, path, window);
    const then =
      other && found
        ? find({ usage: other, columns: new ClusterColumns(other, against!.to), path, to: against!.to })
        : null; // set together
    const input: SheetInput = {
      usage,
      path,
      window,
      owner: this.owners.ownerAt(path)?.name ?? null,
      alerts,
      telling,
      runningOut: window.live ? this.runningOutOf(usage, path) : null,
      elsewhere: this.elsewhere(reach, path),
      requests: await this.requestsOf({ usage, other, thing, found, then, place: measuredPlace(path, null) }),
      processes: found ? await this.processes.tablesOf(usage, found) : [],
      nodeDisk: found ? await this.flows.nodeDiskOf(usage, found) : null,
      ...(await this.eventsFor({ reach, usage, path, window, known: thing ? [thing.object.uid] : null })),
    };
    if (thing) return accessorySheet(input, thing);
    const own = found!; // one of the two is there
    const otherColumns = other && new ClusterColumns(other, against!.to); // set together
    const flows = await this.flows.flowsOf({
      usage,
      found: own,
      other: other && then ? { usage: other, found: then } : null,
      place: measuredPlace(path, input.owner),
    });
    return usageSheet({
      input,
      columns,
      found: own,
      flows,
      against:
        other && otherColumns ? counterpart({ other, columns: otherColumns, found: own, path, to: against!.to }) : null,
    });
  }

  /** When it was there, if it ever was; whoever asks may see where it stood. */
  private async notThere({ connectionId }: SeenUsage, path: ObjectPath, { from, to }: Window): Promise<Refusal> {
    const refusal = (words: string, seenAt: number | null = null) =>
      new Refusal('notFound', `Nothing of this name was there in this window. ${words}`, [], null, seenAt);
    const named = namedBy(path);
    const last = named && (await this.inventory.lastNamed(connectionId, named));
    if (!last) return refusal('As far as is kept, there never was. Look one level higher.');
    const clock = (at: number) => formatClock(at, this.clock.now(), { zone: this.settings.config.zone });
    if (last.from > to)
      return refusal(`It has been there since ${clock(last.from)}, after this window.`, this.clock.now());
    // a state that ended with the window may be said to have been there just before
    if (last.to === null || last.to > from) return refusal('Widen the window or look one level higher.');
    return refusal(`It was last there ${clock(last.to)}.`, last.to);
  }

  /** Of pods, of what they belong to, and of the services that they answer for. */
  private requestsOf({
    usage,
    other,
    thing,
    found,
    then,
    place,
  }: {
    readonly usage: SeenUsage;
    readonly other: SeenUsage | null;
    readonly thing: Accessory | null | undefined;
    readonly found: MeasuredObject | null;
    readonly then: MeasuredObject | null;
    readonly place: MeasuredPlace | null;
  }): Promise<SheetAnswer['requests']> {
    const told = (podsOf: (one: SeenUsage) => readonly PodObject[]) => {
      const asked = (one: SeenUsage) => {
        const pods = podsOf(one);
        return { usage: one, pods, place: placeOfPods(one, pods) };
      };
      return this.requests.flowsOf(asked(usage), other && asked(other));
    };
    const service = thing?.object.kind === 'service' ? thing.object : null;
    if (service) {
      return told((one) => behind(one, service));
    }
    if (thing?.object.kind === 'autoscaler') {
      const scaler = thing.object;
      return told((one) => scaledPods(one, scaler));
    }
    if (found === null || (found.level !== 'pod' && found.level !== 'workload')) return Promise.resolve([]);
    return this.requests.flowsOf(
      { usage, pods: found.pods, place },
      other && then ? { usage: other, pods: then.pods, place } : null,
    );
  }

  /** The last lines that a container wrote, asked of the cluster when somebody wants them; nothing of it is kept. */
  async log(
    reach: Reach,
    path: ObjectPath,
    { pod, container, previous }: z.infer<typeof LogQuery>,
  ): Promise<LogAnswer> {
    const { cluster, namespace } = placeOf(path);
    if (cluster === null || namespace === null)
      throw new Refusal('invalid', 'Log lines are asked of a container of a pod in a namespace.');
    demand({ reach, level: 'read', cluster, namespace });
    const id = this.connections.idOf(cluster);
    if (id === undefined) throw new Refusal('notFound', 'This cluster is not connected (any more).');
    const text = await this.connections.lastLines(
      id,
      { namespace, pod, container, previous: previous === 'yes' },
      LOG_LINES,
    );
    const lines = text.replace(/\n$/, '').split('\n').slice(-LOG_LINES);
    return { at: this.clock.now(), lines: lines.map((line) => line.slice(0, LOG_WIDTH)), previous: previous === 'yes' };
  }

  /** Every state of an object that is kept, and what changed from one to the next. */
  async versions(reach: Reach, path: ObjectPath, query: WindowQuery): Promise<VersionsAnswer> {
    const window = this.usage.window(query.from, query.to);
    const usage = await this.usage.ofPath(reach, path, window);
    const thing = findAccessory({
      usage,
      path,
      other: null,
      telling: { at: window.to, zone: this.settings.config.zone },
    });
    const own = thing?.object.uid ?? uidsOf(usage, path)?.[0];
    if (own === undefined) throw new Refusal('notFound', 'Versions are kept of single objects: choose one.');
    return versionLines(await this.inventory.versionsOf(usage.connectionId, own, MOST_VERSIONS + 1), MOST_VERSIONS);
  }

  /** Clusters where the same namespace, or the same workload in it, is there now. */
  private elsewhere(reach: Reach, path: ObjectPath): string[] {
    if (path.is !== 'namespace' && path.is !== 'workload') return [];
    const { cluster, namespace } = path;
    return this.connections.ids().flatMap((id) => {
      const name = this.connections.nameOf(id);
      if (name === cluster || !reach.reads(name, namespace)) return [];
      const inventory = this.inventory.cluster(id);
      const there =
        path.is === 'namespace'
          ? inventory.list('namespace').some((one) => one.name === namespace)
          : inventory.podsOf(namespace, workloadKey(path.workload)).length > 0;
      return there ? [name] : [];
    });
  }
  private runningOutOf({ connectionId, sees }: SeenUsage, path: ObjectPath): SheetAnswer['runningOut'] {
    const lines = this.runningOut.linesOf(connectionId);
    return lines && inTime(lines.filter((line) => mayTell(line, sees) && concerns(line, path))).slice(0, MOST_TOLD);
  }
  private async eventsFor({
    reach,
    usage,
    path,
    window: { from, to },
    known,
  }: {
    readonly reach: Reach;
    readonly usage: SeenUsage;
    readonly path: ObjectPath;
    readonly window: Window;
    readonly known: string[] | null;
  }) {
    const namespace = namespaceOf(path);
    if (path.is === 'node' && !reach.whole(usage.name))
      return {
        events: [],
        eventsMissing: 'what a shared node says may speak of others; it is for those who may see the whole cluster.',
      };
    const uids = known ?? uidsOf(usage, path);
    const events =
      uids === null
        ? namespace === null
          ? []
          : await this.inventory.eventsIn({ connectionId: usage.connectionId, namespace, from, to })
        : await this.inventory.eventsAbout({ connectionId: usage.connectionId, uids, from, to });
    const state = this.connections.get(reach, usage.connectionId).kinds.find(({ kind }) => kind === 'event');
    return {
      events,
      eventsMissing: state && state.state !== 'watching' ? (state.reason ?? 'Events are not read yet.') : null,
    };
  }
}

/** What of the inventory a path names, or stands in; null where it names no object. */
function namedBy(path: ObjectPath): { kind: InventoryKind; namespace: string | null; name: string } | null {
  switch (path.is) {
    case 'node':
      return { kind: 'node', namespace: null, name: path.node };
    case 'namespace':
      return { kind: 'namespace', namespace: null, name: path.namespace };
    case 'persistent volume':
      return { kind: 'persistent volume', namespace: null, name: path.volume };
    case 'workload': {
      const { kind, name } = path.workload;
      return kind === 'lone pod' || kind === 'other' ? null : { kind, namespace: path.namespace, name };
    }
    case 'accessory':
      return { kind: path.kind, namespace: path.namespace, name: path.name };
    case 'pod':
    case 'container':
      return { kind: 'pod', namespace: path.namespace, name: path.pod };
    case 'everything':
    case 'cluster':
    case 'team':
    case 'host':
      return null;
  }
}
