import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { ScoutAnswer, ScoutDocument, ScoutInput, ScoutPreview } from '@zetopsis/contract';
import { workloadKey } from '@zetopsis/core/inventory';
import {
  type Candidate,
  candidatesOf,
  merging,
  type ScoutView,
  type Target,
  templateProblem,
} from '@zetopsis/core/scouting';
import type { EntityManager } from 'typeorm';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { KeptSecrets, placeOf } from '../../ground/platform/keptSecrets.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Secrets } from '../../ground/platform/secrets.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { EndpointStore } from './endpoint.store.ts';
import { EndpointAnswersService } from './endpointAnswers.service.ts';
import { EndpointsService } from './endpoints.service.ts';
import { KnownEndpoints } from './knownEndpoints.ts';
import { foundPlan, type PlanDraft, scoutOf, targetUrl } from './plans.ts';

/** Changes of the inventory that come together are looked at together. */
const GATHER = 300;
const SHOWN = 200;
const LOOKED_AT: ReadonlySet<string> = new Set(['pod', 'service', 'node']);

interface Found {
  readonly scout: string;
  readonly candidates: readonly Candidate[];
}

/** A scout's secret goes to what it was given for, and to nothing that it is made to look for later. */
const boundTo = ({ cluster, namespaces, among, labels, annotations, container, proof, authority }: ScoutDocument) =>
  JSON.stringify([cluster, namespaces, among, labels, annotations, container, proof, authority]);

/** The standing searches for endpoints. What appears is read within one interval; what goes is retired. */
@Injectable()
export class ScoutsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly due = new Map<string, NodeJS.Timeout>();
  private readonly found = new Map<string, readonly Found[]>();
  private readonly kept: KeptSecrets;

  constructor(
    private readonly configuration: ConfigurationService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly endpoints: EndpointsService,
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly knownEndpoints: KnownEndpoints,
    private readonly store: EndpointStore,
    secrets: Secrets,
    log: ServerLog,
  ) {
    this.kept = new KeptSecrets(secrets, (key, error) => log.failure('tokenNotReadable', error, { scout: key }));
  }

  async onApplicationBootstrap(): Promise<void> {
    for (const [key, encrypted] of await this.store.scoutSecrets()) this.kept.note(key, encrypted);
    this.configuration.addCheck((wanted, changes) =>
      changes.flatMap((change) => {
        if (change.kind !== 'scout' || change.after === null) return [];
        const { attach, cluster } = change.after as ScoutDocument; // of its kind
        const problems = Object.entries(attach).flatMap(([label, template]) => {
          const text = templateProblem(template);
          return text === null ? [] : [{ path: ['attach', label], text }];
        });
        if (cluster !== null && wanted.get('cluster', cluster) === null)
          problems.push({ path: ['cluster'], text: `There is no cluster called ${cluster}.` });
        return problems.map((problem) => ({ kind: 'scout' as const, key: change.key, ...problem }));
      }),
    );
    this.configuration.onApplied('scout', () => this.reviewAll());
    this.inventory.onChange((connectionId, kind) => {
      if (LOOKED_AT.has(kind) && this.configuration.all('scout').size > 0) this.reviewSoon(connectionId);
    });
    this.connections.onChange((connectionId) => {
      if (this.connections.access(connectionId)) this.reviewSoon(connectionId);
      else this.found.delete(connectionId);
    });
    this.reviewAll();
  }
  onApplicationShutdown(): void {
    for (const timer of this.due.values()) clearTimeout(timer);
  }

  /**
   * A scout's secret goes to what the clusters say that they run: it is bound to what the scout looks for and to where those
   * clusters were when it was given. One that was connected since was so by an administrator.
   */
  private meantFor(document: ScoutDocument): string {
    return `${boundTo(document)} ${JSON.stringify(Object.fromEntries(this.placesOf(document)))}`;
  }
  private placesOf({ cluster }: ScoutDocument): [name: string, place: string][] {
    return this.connections.ids().flatMap((id): [string, string][] => {
      const access = this.connections.access(id);
      return access && (cluster === null || cluster === access.name) ? [[access.name, placeOf(access)]] : [];
    });
  }
  private secretFor(key: string, document: ScoutDocument, clusters: readonly [name: string, place: string][]): string {
    const bound = boundTo(document);
    return this.kept.of(key, (meantFor) => {
      if (!meantFor.startsWith(bound)) return false;
      const rest = meantFor.slice(bound.length);
      // kept by an earlier version: bound to what it looks for only
      const places = (rest === '' ? {} : JSON.parse(rest)) as Record<string, string>; // our own text
      return clusters.every(([name, place]) => places[name] === undefined || places[name] === place);
    });
  }
  private reviewAll(): void {
    for (const id of this.connections.ids()) this.reviewSoon(id);
  }
  private reviewSoon(connectionId: string): void {
    if (this.due.has(connectionId)) return;
    this.due.set(
      connectionId,
      setTimeout(() => {
        this.due.delete(connectionId);
        void this.review(connectionId);
      }, GATHER),
    );
  }
  private async review(connectionId: string): Promise<void> {
    const name = this.connections.nameOf(connectionId);
    const access = this.connections.access(connectionId);
    if (!access) return;
    const scouts = [...this.configuration.all('scout')].filter(([, { use }]) => use === 'on');
    const view = this.view(connectionId);
    const found: Found[] = [];
    const drafts = new Map<string, PlanDraft>();
    for (const [key, document] of scouts) {
      const candidates = candidatesOf(scoutOf(document), view);
      found.push({ scout: key, candidates });
      const secret = this.secretFor(key, document, [[name, placeOf(access)]]);
      for (const target of candidates.flatMap(({ targets }) => targets)) {
        const url = targetUrl(target);
        if (url === null) continue;
        const draft = foundPlan({
          target,
          url,
          scout: { key, document, secret },
          connection: { id: connectionId, name },
        });
        // two scouts, one page: one endpoint, of the scout that comes first by name
        if (!drafts.has(draft.name)) drafts.set(draft.name, draft);
      }
    }
    this.found.set(connectionId, found);
    return this.endpoints.match(
      ({ plan }) => plan.kind === 'found' && plan.connectionId === connectionId,
      [...drafts.values()],
    );
  }
  private view(connectionId: string): ScoutView {
    const cluster = this.inventory.cluster(connectionId);
    return {
      cluster: this.connections.nameOf(connectionId),
      pods: cluster.list('pod'),
      services: cluster.list('service'),
      nodes: cluster.list('node'),
      workloadOf: (pod) => workloadKey(cluster.workloadOf(pod)),
    };
  }

  list(): ScoutAnswer[] {
    const plans = [...this.knownEndpoints.all()].map(({ plan }) => plan).filter(({ kind }) => kind === 'found');
    return [...this.configuration.all('scout')].map(([key, document]) => {
      const own = plans.filter(({ scout }) => scout === key);
      const candidates = [...this.found.values()].flatMap((all) =>
        all.filter(({ scout }) => scout === key).flatMap((one) => one.candidates),
      );
      return {
        key,
        document,
        hasSecret: this.kept.has(key),
        found: candidates.reduce((sum, { targets }) => sum + targets.length, 0),
        read: own.filter(({ name }) => this.endpointAnswers.byName('found', name)?.state === 'read').length,
        leftOut: candidates.filter(({ leftOut }) => leftOut.length > 0).length,
      };
    });
  }
  async save(by: string, key: string, { document, secret }: ScoutInput): Promise<void> {
    const before = this.configuration.get('scout', key);
    if (document.proof !== 'none' && secret === '' && this.secretFor(key, document, this.placesOf(document)) === '') {
      throw new Refusal(
        'invalid',
        this.kept.has(key)
          ? 'The kept secret is only sent to what the scout looked for when it was given: enter it again.'
          : 'What proves who asks is missing: enter the secret, or choose none.',
        [{ path: 'secret', text: 'enter it' }],
      );
    }
    const keep = async (manager?: EntityManager) => {
      if (secret === '') return;
      const encrypted = this.kept.sealed(this.meantFor(document), secret);
      await this.store.keepScoutSecret(key, encrypted, manager);
      this.kept.note(key, encrypted);
    };
    const revision = await this.configuration.change({
      by,
      what: `${before ? 'changed' : 'made'} scout ${key}`,
      wishes: [{ kind: 'scout', key, after: document }],
      more: keep,
    });
    if (revision !== null || secret === '') return;
    await keep();
    this.reviewAll();
  }
  async remove(by: string, key: string): Promise<void> {
    if (this.configuration.get('scout', key) === null)
      throw new Refusal('notFound', 'There is no scout of this name (any more).');
    await this.configuration.change({
      by,
      what: `removed scout ${key}`,
      wishes: [{ kind: 'scout', key, after: null }],
    });
  }

  /** What a scout would find now, and why not the rest. */
  preview(document: ScoutDocument): ScoutPreview {
    const problem = Object.values(document.attach)
      .map(templateProblem)
      .find((text) => text !== null);
    if (problem) throw new Refusal('invalid', problem, [{ path: 'attach', text: problem }]);
    const known = new Map(
      this.endpoints
        .plans()
        .filter(({ kind }) => kind === 'found')
        .map(({ url, through, scout }) => [`${through} ${url.href}`, scout]),
    );
    const all = this.connections.ids().map((id) => ({
      cluster: this.connections.nameOf(id),
      candidates: candidatesOf(scoutOf(document), this.view(id)),
    }));
    const found: { cluster: string; target: Target; url: URL }[] = [];
    const leftOut: ScoutPreview['leftOut'] = [];
    for (const { cluster, candidates } of all)
      for (const { kind, namespace, object, targets, leftOut: reasons } of candidates) {
        const name = `${kind} ${namespace === null ? '' : `${namespace}/`}${object}`;
        for (const why of reasons) leftOut.push({ cluster, object: name, why });
        for (const target of targets) {
          const url = targetUrl(target);
          if (url) found.push({ cluster, target, url });
          else leftOut.push({ cluster, object: name, why: 'what it says of itself makes no address' });
        }
      }
    const answer = ({ cluster, target, url: { href: address } }: (typeof found)[number]) => {
      const through = target.route === 'direct' ? null : cluster;
      return {
        name: target.name,
        cluster,
        address,
        every: target.every / 1000,
        labels: target.labels,
        as: target.as,
        foundBy: known.get(`${through} ${address}`) ?? null,
      };
    };
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
    };
  }
}
