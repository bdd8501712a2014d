import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import type {
  ClusterDocument,
  ConnectionAnswer,
  ConnectionChange,
  ConnectionInput,
  ConnectionTest,
} from '@zetopsis/contract';
import { LEVELS, type Reach } from '@zetopsis/core/access';
import { readObject } from '@zetopsis/core/inventory';
import { type EntityManager, Repository } from 'typeorm';
import { type Agent, request } from 'undici';
import { demand } from '../access/demand.ts';
import { AuditService } from '../audit/audit.service.ts';
import { ConfigurationService } from '../configuration/configuration.service.ts';
import type { DocumentChange } from '../configuration/documents.ts';
import { InventoryService } from '../inventory/inventory.service.ts';
import { LiveService } from '../live/live.service.ts';
import { AddressGuard } from '../platform/addressGuard.ts';
import { discardBody } from '../platform/discardBody.ts';
import { failureInWords, statusInWords } from '../platform/failureWords.ts';
import { KeptSecrets, placeOf } from '../platform/keptSecrets.ts';
import { ServerLog } from '../platform/logger.ts';
import { Refusal } from '../platform/refusals.ts';
import { Secrets } from '../platform/secrets.ts';
import { Clock } from '../platform/settings.ts';
import { ApiRefusal, ClusterClient, type LogWanted, WATCHED } from './clusterClient.ts';
import { ClusterRunner } from './clusterRunner.ts';
import { ConnectionEntity } from './connection.entity.ts';

const TEST_TIMEOUT = 8000;

/** What else needs of a connection: to read its nodes' pages. */
export interface ConnectionAccess {
  readonly id: string;
  readonly name: string;
  readonly address: string;
  readonly token: string;
  readonly authority: string;
  readonly pagePath: string;
  readonly intervalMs: number;
}

/** A cluster's document with its identity. */
interface Connection extends ClusterDocument {
  readonly id: string;
  readonly name: string;
  /** Where its token may go. */
  readonly place: string;
}

const LOG_BYTES = 512 * 1024;
const LOG_TIMEOUT = 8000;

/** The clusters Zetopsis reads, and the runners that keep them flowing. */
@Injectable()
export class ConnectionsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly runners = new Map<string, ClusterRunner>();
  private readonly known = new Map<string, Connection>();
  private readonly listeners = new Set<(id: string) => void>();
  private readonly tokens: KeptSecrets;

  constructor(
    @InjectRepository(ConnectionEntity) private readonly store: Repository<ConnectionEntity>,
    private readonly configuration: ConfigurationService,
    private readonly inventory: InventoryService,
    secrets: Secrets,
    private readonly guard: AddressGuard,
    private readonly clock: Clock,
    private readonly live: LiveService,
    private readonly audit: AuditService,
    private readonly log: ServerLog,
  ) {
    this.tokens = new KeptSecrets(secrets, (cluster, error) => log.failure('tokenNotReadable', error, { cluster }));
  }

  async onApplicationBootstrap(): Promise<void> {
    for (const { id, name, tokenEncrypted } of await this.store.find()) {
      this.tokens.note(name, tokenEncrypted);
      const document = this.configuration.get('cluster', name);
      const bound = document && this.tokens.bound(name, placeOf(document));
      if (bound === null) continue;
      await this.store.update(id, { tokenEncrypted: bound });
      this.tokens.note(name, bound);
    }
    this.configuration.onApplied('cluster', (change) => this.applied(change));
    for (const [name, document] of this.configuration.all('cluster')) await this.run(await this.joined(name, document));
  }
  async onApplicationShutdown(): Promise<void> {
    await Promise.all([...this.runners.values()].map((runner) => runner.stop()));
  }

  /** Told when a connection was added, changed or removed. */
  onChange(listener: (id: string) => void): void {
    this.listeners.add(listener);
  }
  ids(): string[] {
    return [...this.known.keys()];
  }
  access(id: string): ConnectionAccess | null {
    const connection = this.known.get(id);
    return (
      (connection && {
        id,
        name: connection.name,
        address: connection.address,
        token: this.tokenOf(connection),
        authority: connection.authority,
        pagePath: connection.nodePage.path,
        intervalMs: connection.nodePage.intervalSeconds * 1000,
      }) ??
      null
    );
  }
  nameOf(id: string): string {
    return this.known.get(id)?.name ?? id;
  }
  /** How long the cluster's API took for the newest small requests, ms. */
  answeredIn(id: string): readonly number[] {
    return [...(this.runners.get(id)?.answeredIn ?? [])];
  }
  /** The last lines of a container, asked of the cluster now; a refusal says in words why not. */
  async lastLines(id: string, wanted: LogWanted, lines: number): Promise<string> {
    const runner = this.runners.get(id);
    if (!runner) throw new Refusal('notFound', 'This cluster is not connected (any more).');
    try {
      return await runner.log(wanted, { lines, bytes: LOG_BYTES, timeout: LOG_TIMEOUT });
    } catch (error) {
      if (error instanceof ApiRefusal)
        throw new Refusal(error.status === 404 ? 'notFound' : 'unavailable', error.message);
      throw new Refusal('unavailable', failureInWords(error));
    }
  }
  intervalOf(id: string): number {
    return (this.known.get(id)?.nodePage.intervalSeconds ?? 15) * 1000;
  }
  traitsOf(id: string): Readonly<Record<'environment' | 'region' | 'flavour', string>> {
    const { environment = '', region = '', flavour = '' } = this.known.get(id) ?? {};
    return { environment, region, flavour };
  }
  idOf(name: string): string | undefined {
    return [...this.known.values()].find((connection) => connection.name === name)?.id;
  }
  isBlind(id: string): boolean {
    return this.runners.get(id)?.blind ?? true;
  }

  names(): string[] {
    return [...this.known.values()].map(({ name }) => name).sort();
  }

  list(reach: Reach): ConnectionAnswer[] {
    return [...this.known.values()]
      .filter(({ name }) => reach.touches(name))
      .sort((a, b) => a.name.localeCompare(b.name))
      .map((connection) => this.answer(connection, reach));
  }
  get(reach: Reach, id: string): ConnectionAnswer {
    return this.answer(this.mustKnow(reach, id), reach);
  }

  private answer(connection: Connection, reach: Reach): ConnectionAnswer {
    const runner = this.runners.get(connection.id)!; // every known connection has one
    const tokenless = this.tokenOf(connection) === '';
    return {
      id: connection.id,
      name: connection.name,
      address: connection.address,
      authority: connection.authority,
      nodePage: connection.nodePage,
      environment: connection.environment,
      region: connection.region,
      flavour: connection.flavour,
      may: LEVELS.findLast((level) => reach.may(level, connection.name, null)) ?? 'read',
      ...runner.state,
      ...(tokenless
        ? {
            reason: this.tokens.has(connection.name)
              ? 'The kept token is for another address or authority than this one: it is not sent here.'
              : 'No token is kept for this cluster: its settings came from a file or an earlier revision.',
            nextStep: 'Enter a token that may get, list and watch.',
          }
        : {}),
      kinds: runner.watches.map(({ kind, status }) => ({
        kind,
        state: status.state,
        count: kind === 'event' ? this.inventory.eventCount(connection.id) : this.inventory.count(connection.id, kind),
        reason: status.reason,
        resyncs: status.resyncs,
      })),
    };
  }

  /** Connecting needs administering everywhere; the route asks for it. */
  async add(reach: Reach, by: string, { name, token, ...document }: ConnectionInput): Promise<ConnectionAnswer> {
    if (this.idOf(name) !== undefined) {
      throw new Refusal('conflict', `A cluster called ${name} is connected already. Choose another name.`, [
        { path: 'name', text: 'in use' },
      ]);
    }
    const tokenEncrypted = this.tokens.sealed(placeOf(document), token);
    const saved = await this.store.save(this.store.create({ name, tokenEncrypted }));
    this.tokens.note(name, tokenEncrypted);
    try {
      await this.configuration.change(by, `connected ${name}`, [
        { kind: 'cluster', key: name, after: document, fresh: true },
      ]);
    } catch (error) {
      await this.store.delete(saved.id);
      this.tokens.note(name, '');
      throw error;
    }
    return this.get(reach, saved.id);
  }

  async change(
    reach: Reach,
    by: string,
    id: string,
    { token, ...document }: ConnectionChange,
  ): Promise<ConnectionAnswer> {
    const { name } = this.mustKnow(reach, id);
    demand(reach, 'administer', name, null);
    if (token === '') this.mayKeepToken(name, document);
    const keep = async (manager?: EntityManager) => {
      if (token === '') return;
      const tokenEncrypted = this.tokens.sealed(placeOf(document), token);
      await (manager?.getRepository(ConnectionEntity) ?? this.store).update(id, { tokenEncrypted });
      this.tokens.note(name, tokenEncrypted);
    };
    const revision = await this.configuration.change(
      by,
      `changed the connection of ${name}`,
      [{ kind: 'cluster', key: name, after: document }],
      keep,
    );
    // a token is in no document: alone it makes no revision, but the cluster is read with it at once
    if (revision === null && token !== '') {
      await keep();
      await this.restart(name, document);
    }
    return this.get(reach, id);
  }

  /** Removes the connection and everything read through it. */
  async remove(reach: Reach, by: string, id: string): Promise<void> {
    const { name } = this.mustKnow(reach, id);
    demand(reach, 'administer', name, null);
    await this.configuration.change(by, `removed ${name}`, [{ kind: 'cluster', key: name, after: null }]);
  }

  private async applied({ key, after }: DocumentChange<'cluster'>): Promise<void> {
    if (after !== null) await this.restart(key, after);
    else await this.forget(key);
  }
  private async restart(name: string, document: ClusterDocument): Promise<void> {
    const id = this.idOf(name);
    if (id !== undefined) await this.runners.get(id)?.stop();
    await this.run(await this.joined(name, document));
  }
  private async forget(name: string): Promise<void> {
    const id = this.idOf(name);
    if (id === undefined) return;
    await this.runners.get(id)?.stop();
    this.runners.delete(id);
    this.known.delete(id);
    await this.inventory.forget(id);
    for (const listener of this.listeners) listener(id);
    await this.store.delete(id);
    this.tokens.note(name, '');
    this.log.note('connectionRemoved', `cluster ${name} removed`);
    this.live.touch('sources');
  }
  private async joined(name: string, document: ClusterDocument): Promise<Connection> {
    const entity =
      (await this.store.findOneBy({ name })) ??
      (await this.store.save(this.store.create({ name, tokenEncrypted: '' })));
    return { ...document, id: entity.id, name, place: placeOf(document) };
  }
  /**
   * Empty where none was given, the one given was for another address or authority, or the key that encrypted it is lost:
   * the cluster then says that a token is missing.
   */
  private tokenOf({ name, place }: Connection): string {
    return this.tokens.of(name, place);
  }
  /** The kept token goes only where it was meant for: nobody sends it to an address of their own. */
  private mayKeepToken(name: string, wanted: Pick<ClusterDocument, 'address' | 'authority'>): void {
    if (!this.tokens.has(name) || this.tokens.of(name, placeOf(wanted)) !== '') return;
    throw new Refusal(
      'invalid',
      'The stored token is only sent to the address and authority it was given for: enter the token again.',
      [{ path: 'token', text: 'enter it for the new address' }],
    );
  }

  private mustKnow(reach: Reach, id: string): Connection {
    const connection = this.known.get(id);
    if (!connection || !reach.touches(connection.name))
      throw new Refusal('notFound', 'This cluster is not connected (any more).');
    return connection;
  }

  private async run(connection: Connection): Promise<void> {
    const agent = this.guard.agent(connection.authority);
    const client = new ClusterClient(connection.address, this.tokenOf(connection), agent, this.guard);
    const heardBefore = await this.inventory.load(connection.id);
    let before: ConnectionAnswer['state'] = 'connecting';
    const runner = new ClusterRunner(
      client,
      agent,
      this.inventory.sinkFor(connection.id),
      this.clock,
      () => {
        this.live.touch('sources');
        const { state, reason } = runner.state;
        if (state !== before && (state === 'blind' || before === 'blind'))
          void this.audit.noteOwn(
            `cluster turned ${state}`,
            connection.name,
            reason ?? '',
            state === 'blind' ? 'failed' : 'done',
          );
        before = state;
      },
      heardBefore,
    );
    this.known.set(connection.id, connection);
    this.runners.set(connection.id, runner);
    runner.start();
    for (const listener of this.listeners) listener(connection.id);
    this.live.touch('sources');
  }

  /** Tries an address and token without storing anything, and says what may be read. */
  async test(
    reach: Reach,
    input: Pick<ConnectionInput, 'address' | 'token' | 'authority' | 'nodePage'>,
    trimmed: string[],
    storedFor?: string,
  ): Promise<ConnectionTest> {
    const began = performance.now();
    const token =
      input.token !== '' || storedFor === undefined ? input.token : this.storedToken(reach, storedFor, input);
    let agent: Agent;
    const done = (part: Partial<ConnectionTest>): ConnectionTest => ({
      reached: false,
      problem: null,
      clusterVersion: null,
      kinds: [],
      nodePage: null,
      trimmed,
      durationMs: Math.round(performance.now() - began),
      ...part,
    });
    try {
      agent = this.guard.agent(input.authority);
    } catch (error) {
      return done({ problem: failureInWords(error) });
    }
    try {
      const client = new ClusterClient(input.address, token, agent, this.guard);
      const clusterVersion = await client.version(TEST_TIMEOUT);
      let firstNode: unknown;
      const kinds = await Promise.all(
        WATCHED.map(async (kind): Promise<ConnectionTest['kinds'][number]> => {
          try {
            const { count, first } = await client.peek(kind, TEST_TIMEOUT);
            if (kind === 'node') firstNode = first;
            return { kind, may: 'read', count, why: null };
          } catch (error) {
            const status = error instanceof ApiRefusal ? error.status : 0;
            const may = status === 401 || status === 403 ? 'not allowed' : status === 404 ? 'not served' : 'failed';
            return { kind, may, count: null, why: error instanceof ApiRefusal ? error.message : failureInWords(error) };
          }
        }),
      );
      return done({
        reached: true,
        clusterVersion,
        kinds,
        nodePage: await this.tryNodePage(firstNode, token, agent, input.nodePage.path),
      });
    } catch (error) {
      return done({ problem: error instanceof ApiRefusal ? error.message : failureInWords(error) });
    } finally {
      await agent.destroy();
    }
  }

  private storedToken(reach: Reach, id: string, wanted: Pick<ClusterDocument, 'address' | 'authority'>): string {
    const { name } = this.mustKnow(reach, id);
    demand(reach, 'administer', name, null);
    this.mayKeepToken(name, wanted);
    return this.tokens.of(name, placeOf(wanted));
  }

  private async tryNodePage(
    foreign: unknown,
    token: string,
    agent: Agent,
    path: string,
  ): Promise<ConnectionTest['nodePage']> {
    const node = foreign === undefined ? null : readObject('node', foreign);
    if (node?.kind !== 'node') return null;
    if (node.address === null || node.port === null)
      return { ok: false, text: `Node ${node.name} does not say at which address and port its page is.` };
    const url = new URL(`https://${node.address}:${node.port}${path}`);
    try {
      this.guard.checkUrl(url);
      const { statusCode, body, headers } = await request(url, {
        dispatcher: agent,
        signal: AbortSignal.timeout(TEST_TIMEOUT),
        headers: { authorization: `Bearer ${token}` },
      });
      discardBody(body);
      if (statusCode !== 200) return { ok: false, text: `Page of node ${node.name}: ${statusInWords(statusCode)}` };
      return {
        ok: true,
        text: `The page of node ${node.name} answers (${String(headers['content-type'] ?? 'no type given')}).`,
      };
    } catch (error) {
      return { ok: false, text: `Page of node ${node.name}: ${failureInWords(error)}` };
    }
  }
}
