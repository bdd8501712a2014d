import { Injectable } from '@nestjs/common';
import type { ScoutDependants, ScoutDocument, ScoutPreview } from '@zetopsis/contract';
import { workloadKey } from '@zetopsis/core/inventory';
import {
  type Candidate,
  candidatesOf,
  merging,
  type ScoutView,
  type Target,
  templateProblem,
} from '@zetopsis/core/scouting';
import { Refusal } from '../../ground/platform/refusals.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { IntervalsService } from './intervals.service.ts';
import { KnownEndpoints } from './knownEndpoints.ts';
import { type EndpointPlan, scoutOf, targetUrl } from './plans.ts';

const SHOWN = 200;

/** What one scout finds in one cluster. */
export interface Found {
  readonly scout: string;
  readonly connectionId: string;
  readonly candidates: readonly Candidate[];
}
interface Pages {
  pages: number;
  series: number;
}
const namesIn = (candidates: readonly Candidate[]) =>
  new Set(candidates.flatMap(({ targets }) => targets.map(({ name }) => name)));

/** What a scout would find and change, said before it does. */
@Injectable()
export class ScoutPreviewService {
  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly known: KnownEndpoints,
    private readonly numbers: SeriesNumbers,
    private readonly intervals: IntervalsService,
  ) {}

  view(connectionId: string): ScoutView {
    const cluster = this.inventory.cluster(connectionId);
    return {
      cluster: this.connections.nameOf(connectionId),
      pods: cluster.list('pod'),
      services: cluster.list('service'),
      nodes: cluster.list('node'),
      workloadOf: (pod) => workloadKey(cluster.workloadOf(pod)),
    };
  }

  /** What a scout would find now, and why not the rest; what it would change of what is read. */
  preview(document: ScoutDocument, key: string | null): ScoutPreview {
    const problem = Object.values(document.attach)
      .map(templateProblem)
      .find((text) => text !== null);
    if (problem) throw new Refusal('invalid', problem, [{ path: 'attach', text: problem }]);
    const read = this.read();
    const all = this.connections.ids().map((connectionId) => ({
      connectionId,
      cluster: this.connections.nameOf(connectionId),
      candidates: candidatesOf(scoutOf(document, this.intervals.of(document)), this.view(connectionId)),
    }));
    const found: { connectionId: string; cluster: string; target: Target; url: URL }[] = [];
    const leftOut: ScoutPreview['leftOut'] = [];
    for (const { connectionId, cluster, candidates } of all)
      for (const { kind, namespace, object, targets, leftOut: reasons } of candidates) {
        const name = `${kind} ${namespace === null ? '' : `${namespace}/`}${object}`;
        for (const why of reasons) leftOut.push({ cluster, object: name, why });
        for (const target of targets) {
          const url = targetUrl(target);
          if (url) found.push({ connectionId, cluster, target, url });
          else leftOut.push({ cluster, object: name, why: 'what it says of itself makes no address' });
        }
      }
    const answer = ({ connectionId, cluster, target, url }: (typeof found)[number]) => ({
      name: target.name,
      cluster,
      address: url.href,
      every: target.every / 1000,
      labels: target.labels,
      as: target.as,
      foundBy: read.get(pageKey(connectionId, target.name))?.scout ?? null,
    });
    return {
      lookedAt: all.reduce((sum, { candidates }) => sum + candidates.length, 0),
      found: found.slice(0, SHOWN).map(answer),
      foundInAll: found.length,
      leftOut: leftOut.slice(0, SHOWN),
      leftOutInAll: leftOut.length,
      merging: all
        .flatMap(({ candidates }) => merging(candidates))
        .slice(0, 20)
        .map(({ labels, of }) => ({ labels, of: of.slice(0, 10) })),
      ...this.changes({ document, key, found, read }),
    };
  }
  /** What of it is read already, and what would become of that. */
  private changes({
    document,
    key,
    found,
    read,
  }: {
    readonly document: ScoutDocument;
    readonly key: string | null;
    readonly found: readonly { readonly connectionId: string; readonly target: Target }[];
    readonly read: ReadonlyMap<string, EndpointPlan>;
  }): Pick<ScoutPreview, 'fresh' | 'anew' | 'ended' | 'held'> {
    const held = new Map<string, Pages>();
    const anew = { pages: 0, series: 0 };
    const ended = { pages: 0, series: 0 };
    let fresh = 0;
    const pages = new Set<string>();
    for (const { connectionId, target } of found) {
      const page = pageKey(connectionId, target.name);
      if (pages.has(page)) continue;
      pages.add(page);
      const plan = read.get(page);
      if (plan === undefined) fresh++;
      else if (plan.scout !== key && !document.over.includes(plan.scout ?? '')) {
        const own = held.get(plan.scout ?? '') ?? { pages: 0, series: 0 };
        this.add(own, plan);
        held.set(plan.scout ?? '', own);
      } else if (!sameDress(plan, target, document)) this.add(anew, plan);
    }
    for (const [page, plan] of read) if (key !== null && plan.scout === key && !pages.has(page)) this.add(ended, plan);
    return { fresh, anew, ended, held: heldList(held) };
  }
  private add(to: Pages, plan: EndpointPlan): void {
    to.pages++;
    to.series += this.numbers.table.countOf(plan.id);
  }
  /** What scouts found and is read now, by cluster and name. */
  private read(): Map<string, EndpointPlan> {
    const plans = new Map<string, EndpointPlan>();
    for (const { plan, status } of this.known.all())
      if (plan.kind === 'found' && status.state !== 'retired') plans.set(pageKey(plan.connectionId!, plan.name), plan); // found in a cluster
    return plans;
  }

  /** What one scout finds, too, and is read for others. */
  heldFrom(key: string, finds: readonly Found[]): ScoutPreview['held'] {
    const held = new Map<string, Pages>();
    for (const plan of this.shared(key, finds)) {
      const own = held.get(plan.scout!) ?? { pages: 0, series: 0 }; // found by a scout
      this.add(own, plan);
      held.set(plan.scout!, own);
    }
    return heldList(held);
  }
  private *shared(key: string, finds: readonly Found[]): Generator<EndpointPlan> {
    const read = this.read();
    for (const { scout, connectionId, candidates } of finds) {
      if (scout !== key) continue;
      for (const name of namesIn(candidates)) {
        const plan = read.get(pageKey(connectionId, name));
        if (plan !== undefined && plan.scout !== key) yield plan;
      }
    }
  }
  /** What hangs on a scout, and what of it others would read on. */
  dependants(key: string, finds: readonly Found[]): ScoutDependants {
    const own = { pages: 0, series: 0 };
    const goOn = new Map<string, number>();
    const others = finds
      .filter(({ scout }) => scout !== key)
      .map(({ scout, connectionId, candidates }) => ({ scout, connectionId, names: namesIn(candidates) }));
    for (const plan of this.read().values()) {
      if (plan.scout !== key) continue;
      this.add(own, plan);
      const next = others.find(({ connectionId, names }) => connectionId === plan.connectionId && names.has(plan.name));
      if (next) goOn.set(next.scout, (goOn.get(next.scout) ?? 0) + 1);
    }
    return { ...own, goOn: [...goOn].map(([scout, pages]) => ({ scout, pages })) };
  }
}

const pageKey = (connectionId: string, name: string) => `${connectionId} ${name}`;
const heldList = (held: ReadonlyMap<string, Pages>): ScoutPreview['held'] =>
  [...held].map(([scout, pages]) => ({ scout, ...pages })).sort((a, b) => b.pages - a.pages);
/** Whether a page's series would be called as they are, and the same of them kept. */
const sameDress = ({ dress }: EndpointPlan, target: Target, { drop }: ScoutDocument): boolean =>
  JSON.stringify([Object.entries(dress.attach).sort(), dress.drop]) ===
  JSON.stringify([Object.entries(target.labels).sort(), drop]);
