import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { ScoutAnswer, ScoutDependants, ScoutDocument, ScoutInput, ScoutPreview } from '@zetopsis/contract';
import { candidatesOf, holderOf, templateProblem } from '@zetopsis/core/scouting';
import type { EntityManager } from 'typeorm';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { KeptSecrets, placeOf } from '../../ground/platform/keptSecrets.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Secrets } from '../../ground/platform/secrets.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { EndpointStore } from './endpoint.store.ts';
import { EndpointAnswersService } from './endpointAnswers.service.ts';
import { EndpointsService } from './endpoints.service.ts';
import { IntervalsService } from './intervals.service.ts';
import { KnownEndpoints } from './knownEndpoints.ts';
import { foundPlans, type PlanDraft, scoutOf } from './plans.ts';
import { type Found, ScoutPreviewService } from './scoutPreview.service.ts';

/** Changes of the inventory that come together are looked at together. */
const GATHER = 300;
const LOOKED_AT: ReadonlySet<string> = new Set(['pod', 'service', 'node']);

/** A scout's secret goes to what it was given for, and to nothing that it is made to look for later. */
const boundTo = ({ cluster, namespaces, among, labels, annotations, container, proof, authority }: ScoutDocument) =>
  JSON.stringify([cluster, namespaces, among, labels, annotations, container, proof, authority]);

/** The standing searches for endpoints. What appears is read within one interval; what goes is retired. */
@Injectable()
export class ScoutsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly due = new Map<string, NodeJS.Timeout>();
  private readonly found = new Map<string, readonly Found[]>();
  private readonly kept: KeptSecrets;
  /** Since when each looks. */
  private since: ReadonlyMap<string, number> = new Map();

  constructor(
    private readonly configuration: ConfigurationService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly endpoints: EndpointsService,
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly knownEndpoints: KnownEndpoints,
    private readonly store: EndpointStore,
    private readonly previews: ScoutPreviewService,
    private readonly intervals: IntervalsService,
    private readonly clock: Clock,
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
        const { attach, cluster, over } = change.after as ScoutDocument; // of its kind
        const problems = Object.entries(attach).flatMap(([label, template]) => {
          const text = templateProblem(template);
          return text === null ? [] : [{ path: ['attach', label], text }];
        });
        if (cluster !== null && wanted.get('cluster', cluster) === null)
          problems.push({ path: ['cluster'], text: `There is no cluster called ${cluster}.` });
        for (const other of over) {
          if (other === change.key) problems.push({ path: ['over'], text: 'A scout cannot take over from itself.' });
          else if (wanted.get('scout', other) === null)
            problems.push({ path: ['over'], text: `There is no scout called ${other}.` });
          else if (wanted.get('scout', other)?.over.includes(change.key))
            problems.push({ path: ['over'], text: `Scout ${other} takes over from ${change.key} already.` });
        }
        return problems.map((problem) => ({ kind: 'scout' as const, key: change.key, ...problem }));
      }),
    );
    this.configuration.onApplied('scout', () => this.know());
    this.intervals.onChange(() => this.reviewAll());
    this.inventory.onChange((connectionId, kind) => {
      if (LOOKED_AT.has(kind) && this.configuration.all('scout').size > 0) this.reviewSoon(connectionId);
    });
    this.connections.onChange((connectionId) => {
      if (this.connections.access(connectionId)) this.reviewSoon(connectionId);
      else this.found.delete(connectionId);
    });
    await this.know();
  }
  private async know(): Promise<void> {
    this.since = await this.store.scoutsSince([...this.configuration.all('scout').keys()], this.clock.now());
    this.reviewAll();
  }
  /** Of those that find one page, the one that it is read for. */
  private holderOf(finders: readonly string[]): string {
    if (finders.length === 1) return finders[0]!;
    const own = finders.map((key) => ({
      key,
      since: this.since.get(key) ?? Number.POSITIVE_INFINITY,
      over: this.configuration.get('scout', key)?.over ?? [],
    }));
    return holderOf(own).key;
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
    const view = this.previews.view(connectionId);
    const found: Found[] = [];
    // one page is one endpoint, however many scouts find it
    const finders = new Map<string, Map<string, PlanDraft>>();
    for (const [key, document] of scouts) {
      const candidates = candidatesOf(scoutOf(document, this.intervals.of(document)), view);
      found.push({ scout: key, connectionId, candidates });
      const secret = this.secretFor(key, document, [[name, placeOf(access)]]);
      for (const draft of foundPlans(candidates, { key, document, secret }, { id: connectionId, name })) {
        const own = finders.get(draft.name);
        if (own === undefined) finders.set(draft.name, new Map([[key, draft]]));
        else if (!own.has(key)) own.set(key, draft);
      }
    }
    const drafts = [...finders.values()].map((own) => own.get(this.holderOf([...own.keys()]))!); // one of them
    this.found.set(connectionId, found);
    return this.endpoints.match(({ plan }) => plan.kind === 'found' && plan.connectionId === connectionId, drafts);
  }
  list(): ScoutAnswer[] {
    const plans = [...this.knownEndpoints.all()].map(({ plan }) => plan).filter(({ kind }) => kind === 'found');
    const finds = [...this.found.values()].flat();
    return [...this.configuration.all('scout')].map(([key, document]) => {
      const own = plans.filter(({ scout }) => scout === key);
      const candidates = finds.filter(({ scout }) => scout === key).flatMap((one) => one.candidates);
      return {
        key,
        document,
        hasSecret: this.kept.has(key),
        found: candidates.reduce((sum, { targets }) => sum + targets.length, 0),
        read: own.filter(({ name }) => this.endpointAnswers.byName('found', name)?.state === 'read').length,
        leftOut: candidates.filter(({ leftOut }) => leftOut.length > 0).length,
        held: this.previews.heldFrom(key, finds),
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
    this.mustKnow(key);
    // who took over from it does so no more
    const others = [...this.configuration.all('scout')].filter(([, { over }]) => over.includes(key));
    await this.configuration.change({
      by,
      what: `removed scout ${key}`,
      wishes: [
        { kind: 'scout', key, after: null },
        ...others.map(([other, document]) => ({
          kind: 'scout' as const,
          key: other,
          after: { ...document, over: document.over.filter((one) => one !== key) },
        })),
      ],
    });
  }

  /** Another scout’s pages that this one finds, too, are read for it from now on, with its labels. */
  async take(by: string, key: string, from: string): Promise<void> {
    const document = this.mustKnow(key);
    const other = this.mustKnow(from);
    if (!this.previews.heldFrom(key, [...this.found.values()].flat()).some(({ scout }) => scout === from))
      throw new Refusal('notFound', `Scout ${key} finds no page (any more) that is read for scout ${from}.`);
    await this.configuration.change({
      by,
      what: `moved pages of scout ${from} to scout ${key}`,
      wishes: [
        { kind: 'scout', key: from, after: { ...other, over: other.over.filter((one) => one !== key) } },
        { kind: 'scout', key, after: { ...document, over: [...new Set([...document.over, from])] } },
      ],
    });
  }
  preview(document: ScoutDocument, key: string | null): ScoutPreview {
    return this.previews.preview(document, key);
  }
  dependants(key: string): ScoutDependants {
    this.mustKnow(key);
    return this.previews.dependants(key, [...this.found.values()].flat());
  }
  private mustKnow(key: string): ScoutDocument {
    const document = this.configuration.get('scout', key);
    if (document === null) throw new Refusal('notFound', 'There is no scout of this name (any more).');
    return document;
  }
}
