import { Injectable } from '@nestjs/common';
import type { ConnectionInput, ConnectionTest } from '@zetopsis/contract';
import { readObject } from '@zetopsis/core/inventory';
import { type Agent, request } from 'undici';
import { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { discardBody } from '../../ground/platform/discardBody.ts';
import { failureInWords, statusInWords } from '../../ground/platform/failureWords.ts';
import { ApiRefusal, ClusterClient, WATCHED } from './clusterClient.ts';

const TEST_TIMEOUT = 8000;

export type TestedConnection = Pick<ConnectionInput, 'address' | 'token' | 'authority' | 'nodePage'>;

/** Proves that a cluster can be read, before anything of it is kept. */
@Injectable()
export class ConnectionTester {
  constructor(private readonly guard: AddressGuard) {}

  /** Tries an address and token without storing anything, and says what may be read. */
  async test(input: TestedConnection, trimmed: string[]): Promise<ConnectionTest> {
    const began = performance.now();
    const { token } = input;
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
            const why = error instanceof ApiRefusal ? error.message : failureInWords(error);
            return { kind, may, count: null, why };
          }
        }),
      );
      return done({
        reached: true,
        clusterVersion,
        kinds,
        nodePage: await this.tryNodePage({ foreign: firstNode, token, agent, path: input.nodePage.path }),
      });
    } catch (error) {
      return done({ problem: error instanceof ApiRefusal ? error.message : failureInWords(error) });
    } finally {
      await agent.destroy();
    }
  }

  private async tryNodePage({
    foreign,
    token,
    agent,
    path,
  }: {
    readonly foreign: unknown;
    readonly token: string;
    readonly agent: Agent;
    readonly path: string;
  }): Promise<ConnectionTest['nodePage']> {
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
