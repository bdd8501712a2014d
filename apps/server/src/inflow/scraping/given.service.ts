import { Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import type {
  EndpointDocument,
  EndpointInput,
  EndpointsInput,
  GivenAnswer,
  TryAnswer,
  TryInput,
} from '@zetopsis/contract';
import { PageMemory } from '@zetopsis/core/exposition';
import type { EntityManager } from 'typeorm';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { KeptSecrets, placeOf } from '../../ground/platform/keptSecrets.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Secrets } from '../../ground/platform/secrets.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { AskingService } from './asking.service.ts';
import { EndpointStore } from './endpoint.store.ts';
import { EndpointAnswersService } from './endpointAnswers.service.ts';
import { timeoutFor } from './endpointReader.ts';
import { EndpointsService } from './endpoints.service.ts';
import type { FetchResult } from './fetched.ts';
import { fetchPage } from './fetchPage.ts';
import { IntervalsService } from './intervals.service.ts';
import { givenPlan } from './plans.ts';
import { ReadingsService } from './readings.service.ts';
import { tryAnswer } from './tryPage.ts';

/** Endpoints that people give by their address. */
@Injectable()
export class GivenService implements OnApplicationBootstrap {
  private readonly kept: KeptSecrets;

  constructor(
    private readonly configuration: ConfigurationService,
    private readonly store: EndpointStore,
    private readonly endpoints: EndpointsService,
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly readings: ReadingsService,
    private readonly connections: ConnectionsService,
    private readonly asking: AskingService,
    private readonly intervals: IntervalsService,
    secrets: Secrets,
    private readonly guard: AddressGuard,
    log: ServerLog,
  ) {
    this.kept = new KeptSecrets(secrets, (key, error) => log.failure('tokenNotReadable', error, { endpoint: key }));
  }

  async onApplicationBootstrap(): Promise<void> {
    this.configuration.addCheck((wanted, changes) =>
      changes.flatMap((change) => {
        if (change.kind !== 'endpoint' || change.after === null) return [];
        const { through, team } = change.after as EndpointDocument; // of its kind
        const at = (path: string, text: string) => [{ kind: 'endpoint' as const, key: change.key, path: [path], text }];
        if (through !== null && wanted.get('cluster', through) === null)
          return at('through', `There is no cluster called ${through}.`);
        if (team !== null && wanted.get('team', team) === null) return at('team', `There is no team called ${team}.`);
        return [];
      }),
    );
    this.configuration.onApplied('endpoint', () => this.review());
    // its row went with its secret: what is called so later is another one
    this.endpoints.onRemoved(({ kind, name }) => void (kind === 'given' && this.kept.note(name, '')));
    this.intervals.onChange(() => this.review());
    this.connections.onChange(() => void this.review());
    for (const { kind, name, secretEncrypted } of await this.store.all()) {
      if (kind !== 'given') continue;
      this.kept.note(name, secretEncrypted);
      const document = this.configuration.get('endpoint', name);
      const bound = document && this.kept.bound(name, placeOf(document));
      if (bound === null) continue;
      await this.store.keepSecret(name, bound);
      this.kept.note(name, bound);
    }
    await this.review();
  }
  private review(): Promise<void> {
    return this.endpoints.match(
      ({ plan }) => plan.kind === 'given',
      [...this.configuration.all('endpoint')].map(([key, document]) =>
        givenPlan(key, document, this.secretOf(key, document), this.intervals.of(document)),
      ),
    );
  }
  private secretOf(key: string, document: EndpointDocument): string {
    return this.kept.of(key, placeOf(document));
  }

  list(): GivenAnswer[] {
    return [...this.configuration.all('endpoint').keys()].flatMap((key) => this.answer(key) ?? []);
  }
  private answer(key: string): GivenAnswer | null {
    const document = this.configuration.get('endpoint', key);
    const endpoint = this.endpointAnswers.byName('given', key);
    if (!document || !endpoint) return null;
    return { key, document, hasSecret: this.kept.has(key), endpoint };
  }
  private mustKnow(key: string): EndpointDocument {
    const document = this.configuration.get('endpoint', key);
    if (!document) throw new Refusal('notFound', 'There is no endpoint of this name (any more).');
    return document;
  }

  /** Adds all or none. */
  async add(by: string, { endpoints }: EndpointsInput): Promise<GivenAnswer[]> {
    const keys = new Set<string>();
    for (const [i, { key }] of endpoints.entries()) {
      if (keys.has(key) || this.configuration.get('endpoint', key) !== null)
        throw new Refusal('conflict', `There is an endpoint called ${key} already. Choose another name.`, [
          { path: `endpoints.${i}.key`, text: 'in use' },
        ]);
      keys.add(key);
    }
    const what = endpoints.length === 1 ? `added endpoint ${endpoints[0]!.key}` : `added ${endpoints.length} endpoints`;
    await this.configuration.change({
      by,
      what,
      wishes: endpoints.map(({ key, document }) => ({ kind: 'endpoint', key, after: document, fresh: true })),
      more: async (manager) => {
        for (const { key, document, secret } of endpoints) await this.keep({ key, document, secret, manager });
      },
    });
    return endpoints.flatMap(({ key }) => this.answer(key) ?? []);
  }
  async change(by: string, key: string, { document, secret }: EndpointInput): Promise<GivenAnswer> {
    const before = this.mustKnow(key);
    this.mayKeepSecret(before, document, secret);
    const keep = async (manager?: EntityManager) => {
      if (secret !== '') await this.keep({ key, document, secret, manager });
    };
    const revision = await this.configuration.change({
      by,
      what: `changed endpoint ${key}`,
      wishes: [{ kind: 'endpoint', key, after: document }],
      more: keep,
    });
    // a secret is in no document: alone it makes no revision, but the page is read with it at once
    if (revision === null && secret !== '') {
      await keep();
      await this.review();
    }
    return this.answer(key)!; // it is there
  }
  async use(by: string, key: string, use: EndpointDocument['use']): Promise<GivenAnswer> {
    const words = { read: 'resumed', paused: 'paused', retired: 'retired' } as const;
    await this.configuration.change({
      by,
      what: `${words[use]} endpoint ${key}`,
      wishes: [{ kind: 'endpoint', key, after: { ...this.mustKnow(key), use } }],
    });
    return this.answer(key)!; // it is there
  }
  /** With the place it is meant for: whatever changes the address later, it goes nowhere else. */
  private async keep({
    key,
    document,
    secret,
    manager,
  }: {
    readonly key: string;
    readonly document: EndpointDocument;
    readonly secret: string;
    readonly manager?: EntityManager | undefined;
  }): Promise<void> {
    const encrypted = this.kept.sealed(placeOf(document), secret);
    await this.store.keepSecret(key, encrypted, manager);
    this.kept.note(key, encrypted);
  }
  /** A kept secret goes only where it was meant for. */
  private mayKeepSecret(before: EndpointDocument, after: EndpointDocument, secret: string): void {
    const same = placeOf(before) === placeOf(after) && before.proof === after.proof;
    if (same || secret !== '' || after.proof === 'none') return;
    throw new Refusal('invalid', 'The kept secret is only sent to the address it was given for: enter it again.', [
      { path: 'secret', text: 'enter it for the new address' },
    ]);
  }

  /** Reads a page once as it would be read, keeps nothing, and says what happened. */
  async try({ document, secret, like }: TryInput): Promise<TryAnswer> {
    let own = secret;
    if (own === '' && like !== undefined) {
      this.mayKeepSecret(this.mustKnow(like), document, '');
      own = this.secretOf(like, document);
    }
    const plan = givenPlan(like ?? 'a try', document, own, this.intervals.of(document));
    let result: FetchResult;
    try {
      const ask = this.asking.ask(plan);
      const timeout = plan.timeoutMs ?? timeoutFor(plan.intervalMs);
      result = await fetchPage({
        ask,
        guard: this.guard,
        timeoutMs: timeout,
        memory: new PageMemory(),
        limits: this.readings.pageLimits,
      });
    } catch (error) {
      result = { ok: false, reason: error instanceof Error ? error.message : String(error), durationMs: 0 };
    }
    return tryAnswer(result, document.address, plan.dress);
  }
}
