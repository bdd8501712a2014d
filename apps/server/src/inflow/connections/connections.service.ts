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
import { type EntityManager, Repository } from 'typeorm';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import type { DocumentChange } from '../../ground/configuration/documents.ts';
import { demand } from '../../ground/guard/demand.ts';
import { LiveService } from '../../ground/live/live.service.ts';
import { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { failureInWords } from '../../ground/platform/failureWords.ts';
import { KeptSecrets, placeOf } from '../../ground/platform/keptSecrets.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Secrets } from '../../ground/platform/secrets.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { ApiRefusal, ClusterClient, type LogWanted, type WatchedKind } from './clusterClient.ts';
import { ClusterRunner } from './clusterRunner.ts';
import { ClusterTurns } from './clusterTurns.ts';
import { ConnectionEntity } from './connection.entity.ts';
import type { ConnectionAccess } from './connectionAccess.ts';
import { ConnectionTester, type TestedConnection } from './connectionTester.ts';
import { withoutToken } from './tokenWords.ts';

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
    private readonly tester: ConnectionTester,
    private readonly guard: AddressGuard,
    private readonly clock: Clock,
    private readonly live: LiveService,
    private readonly turns: ClusterTurns,
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
  /** What a container writes, as the cluster tells it; see `ClusterClient`. */
  writtenLines(id: string, ...of: Parameters<ClusterClient['writtenLines']>): AsyncGenerator<string[], void> {
    const runner = this.runners.get(id);
    if (!runner) throw new Refusal('notFound', 'This cluster is not connected (any more).');
    return runner.writtenLines(...of);
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
  isBlind(id: string, ofKinds: readonly WatchedKind[] = []): boolean {
    return this.runners.get(id)?.isBlind(ofKinds) ?? true;
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
      ...(this.tokenOf(connection) === '' ? withoutToken(this.tokens.has(connection.name)) : {}),
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
      await this.configuration.change({
        by,
        what: `connected ${name}`,
        wishes: [{ kind: 'cluster', key: name, after: document, fresh: true }],
      });
    } catch (error) {
      await this.store.delete(saved.id);
      this.tokens.note(name, '');
      throw error;
    }
    return this.get(reach, saved.id);
  }

  async change({
    reach,
    by,
    id,
    connectionChange: { token, ...document },
  }: {
    readonly reach: Reach;
    readonly by: string;
    readonly id: string;
    readonly connectionChange: ConnectionChange;
  }): Promise<ConnectionAnswer> {
    const { name } = this.mustKnow(reach, id);
    demand({ reach, level: 'administer', cluster: name, namespace: null });
    if (token === '') this.mayKeepToken(name, document);
    const keep = async (manager?: EntityManager) => {
      if (token === '') return;
      const tokenEncrypted = this.tokens.sealed(placeOf(document), token);
      await (manager?.getRepository(ConnectionEntity) ?? this.store).update(id, { tokenEncrypted });
      this.tokens.note(name, tokenEncrypted);
    };
    const revision = await this.configuration.change({
      by,
      what: `changed the connection of ${name}`,
      wishes: [{ kind: 'cluster', key: name, after: document }],
      more: keep,
    });
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
    demand({ reach, level: 'administer', cluster: name, namespace: null });
    await this.configuration.change({
      by,
      what: `removed ${name}`,
      wishes: [{ kind: 'cluster', key: name, after: null }],
    });
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
    const turned = await this.turns.noterOf(connection.name);
    const runner = new ClusterRunner(
      client,
      agent,
      this.inventory.sinkFor(connection.id),
      this.clock,
      () => {
        this.live.touch('sources');
        turned(runner.state);
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
  async test({
    reach,
    input,
    trimmed,
    storedFor,
  }: {
    readonly reach: Reach;
    readonly input: TestedConnection;
    readonly trimmed: string[];
    readonly storedFor?: string | undefined;
  }): Promise<ConnectionTest> {
    const token =
      input.token !== '' || storedFor === undefined ? input.token : this.storedToken(reach, storedFor, input);
    return this.tester.test({ ...input, token }, trimmed);
  }
  private storedToken(reach: Reach, id: string, wanted: Pick<ClusterDocument, 'address' | 'authority'>): string {
    const { name } = this.mustKnow(reach, id);
    demand({ reach, level: 'administer', cluster: name, namespace: null });
    this.mayKeepToken(name, wanted);
    return this.tokens.of(name, placeOf(wanted));
  }
}
