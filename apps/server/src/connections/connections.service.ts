import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import type { ConnectionAnswer, ConnectionChange, ConnectionInput, ConnectionTest } from '@zetopsis/contract';
import { readObject } from '@zetopsis/core/inventory';
import { Repository } from 'typeorm';
import { type Agent, request } from 'undici';
import { AuditService } from '../audit/audit.service.ts';
import { InventoryService } from '../inventory/inventory.service.ts';
import { LiveService } from '../live/live.service.ts';
import { AddressGuard } from '../platform/addressGuard.ts';
import { discardBody } from '../platform/discardBody.ts';
import { failureInWords, statusInWords } from '../platform/failureWords.ts';
import { ServerLog } from '../platform/logger.ts';
import { Refusal } from '../platform/refusals.ts';
import { Secrets } from '../platform/secrets.ts';
import { Clock } from '../platform/settings.ts';
import { ApiRefusal, ClusterClient, WATCHED } from './clusterClient.ts';
import { ClusterRunner } from './clusterRunner.ts';
import { ConnectionEntity } from './connection.entity.ts';

const TEST_TIMEOUT = 8000;

/** What else needs of a connection: to read its nodes' pages. */
export interface ConnectionAccess {
  readonly id: string;
  readonly name: string;
  readonly token: string;
  readonly authority: string;
  readonly pagePath: string;
  readonly intervalMs: number;
}

/** The clusters Zetopsis reads, and the runners that keep them flowing. */
@Injectable()
export class ConnectionsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly runners = new Map<string, ClusterRunner>();
  private readonly known = new Map<string, ConnectionEntity>();
  private readonly listeners = new Set<(id: string) => void>();

  constructor(
    @InjectRepository(ConnectionEntity) private readonly store: Repository<ConnectionEntity>,
    private readonly inventory: InventoryService,
    private readonly secrets: Secrets,
    private readonly guard: AddressGuard,
    private readonly clock: Clock,
    private readonly live: LiveService,
    private readonly audit: AuditService,
    private readonly log: ServerLog,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    for (const connection of await this.store.find()) await this.run(connection);
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
        token: this.secrets.decrypt(connection.tokenEncrypted),
        authority: connection.authority,
        pagePath: connection.nodePagePath,
        intervalMs: connection.intervalSeconds * 1000,
      }) ??
      null
    );
  }
  nameOf(id: string): string {
    return this.known.get(id)?.name ?? id;
  }
  intervalOf(id: string): number {
    return (this.known.get(id)?.intervalSeconds ?? 15) * 1000;
  }
  idOf(name: string): string | undefined {
    return [...this.known.values()].find((connection) => connection.name === name)?.id;
  }
  isBlind(id: string): boolean {
    return this.runners.get(id)?.blind ?? true;
  }

  list(): ConnectionAnswer[] {
    return [...this.known.values()]
      .sort((a, b) => a.name.localeCompare(b.name))
      .map((connection) => this.answer(connection));
  }
  get(id: string): ConnectionAnswer {
    return this.answer(this.mustKnow(id));
  }

  private answer(connection: ConnectionEntity): ConnectionAnswer {
    const runner = this.runners.get(connection.id)!; // every known connection has one
    return {
      id: connection.id,
      name: connection.name,
      address: connection.address,
      authority: connection.authority,
      nodePage: { path: connection.nodePagePath, intervalSeconds: connection.intervalSeconds },
      ...runner.state,
      kinds: runner.watches.map(({ kind, status }) => ({
        kind,
        state: status.state,
        count: kind === 'event' ? this.inventory.eventCount(connection.id) : this.inventory.count(connection.id, kind),
        reason: status.reason,
        resyncs: status.resyncs,
      })),
    };
  }

  async add(input: ConnectionInput): Promise<ConnectionAnswer> {
    if (this.idOf(input.name) !== undefined) {
      throw new Refusal('conflict', `A cluster called ${input.name} is connected already. Choose another name.`, [
        { path: 'name', text: 'in use' },
      ]);
    }
    const saved = await this.store.save(
      this.store.create({
        name: input.name,
        address: input.address,
        tokenEncrypted: this.secrets.encrypt(input.token),
        authority: input.authority,
        nodePagePath: input.nodePage.path,
        intervalSeconds: input.nodePage.intervalSeconds,
      }),
    );
    this.log.note('connectionAdded', `cluster ${saved.name} connected`, { address: saved.address });
    await this.run(saved);
    return this.answer(saved);
  }

  async change(id: string, input: ConnectionChange): Promise<ConnectionAnswer> {
    const connection = this.mustKnow(id);
    const changed = await this.store.save({
      ...connection,
      address: input.address,
      authority: input.authority,
      tokenEncrypted: input.token === '' ? connection.tokenEncrypted : this.secrets.encrypt(input.token),
      nodePagePath: input.nodePage.path,
      intervalSeconds: input.nodePage.intervalSeconds,
    });
    await this.runners.get(id)?.stop();
    await this.run(changed);
    return this.answer(changed);
  }

  /** Removes the connection and everything read through it. */
  async remove(id: string): Promise<void> {
    const connection = this.mustKnow(id);
    await this.runners.get(id)?.stop();
    this.runners.delete(id);
    this.known.delete(id);
    await this.inventory.forget(id);
    for (const listener of this.listeners) listener(id);
    await this.store.delete(id);
    this.log.note('connectionRemoved', `cluster ${connection.name} removed`);
    this.live.touch('sources');
  }

  private mustKnow(id: string): ConnectionEntity {
    const connection = this.known.get(id);
    if (!connection) throw new Refusal('notFound', 'This cluster is not connected (any more).');
    return connection;
  }

  private async run(connection: ConnectionEntity): Promise<void> {
    const agent = this.guard.agent(connection.authority);
    const client = new ClusterClient(
      connection.address,
      this.secrets.decrypt(connection.tokenEncrypted),
      agent,
      this.guard,
    );
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
  async test(input: Omit<ConnectionInput, 'name'>, trimmed: string[], storedFor?: string): Promise<ConnectionTest> {
    const began = performance.now();
    const token =
      input.token !== '' || storedFor === undefined
        ? input.token
        : this.secrets.decrypt(this.mustKnow(storedFor).tokenEncrypted);
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
