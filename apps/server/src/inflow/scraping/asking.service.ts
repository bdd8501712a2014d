import { createHash } from 'node:crypto';
import { Injectable, type OnApplicationShutdown } from '@nestjs/common';
import type { Agent } from 'undici';
import { AddressGuard } from '../../ground/platform/addressGuard.ts';
import type { ConnectionAccess } from '../connections/connectionAccess.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { proxyPath } from '../connections/proxyPath.ts';
import type { Proof } from './plans.ts';

/** A request ready to be sent. */
export interface Ask {
  readonly url: URL;
  readonly headers: Readonly<Record<string, string>>;
  readonly agent: Agent;
  readonly proves: Proof['by'];
  /** A cluster's API hands it on. */
  readonly through: boolean;
}
export interface Asked {
  readonly url: URL;
  readonly through: string | null;
  readonly proof: Proof;
  readonly authority: string;
  /** The cluster whose token proves who asks. */
  readonly connectionId: string | null;
}
/** Why nothing can be asked, in words. */
class CannotAsk extends Error {}

/** Turns what an endpoint is into a request: through which way, with which proof, over which connections. */
@Injectable()
export class AskingService implements OnApplicationShutdown {
  /** Endpoints of one authority and one certificate share their connections. */
  private readonly agents = new Map<string, Agent>();

  constructor(
    private readonly connections: ConnectionsService,
    private readonly guard: AddressGuard,
  ) {}
  async onApplicationShutdown(): Promise<void> {
    await Promise.all([...this.agents.values()].map((agent) => agent.destroy()));
  }

  ask({ url, through, proof, authority, connectionId }: Asked): Ask {
    if (through !== null) {
      const access = this.connections.access(this.connections.idOf(through) ?? '');
      if (!access)
        throw new CannotAsk(`The cluster ${through}, through which it is read, is not connected (any more).`);
      const path = proxyPath(url);
      if (path === null)
        throw new CannotAsk(
          'Through a cluster an address is written as http://POD.NAMESPACE.pod:PORT/path, SERVICE.NAMESPACE.service or NODE.node.',
        );
      return {
        url: new URL(`${access.address.replace(/\/+$/, '')}${path}`),
        headers: tokenOf(access),
        agent: this.agent(access.authority),
        proves: 'cluster',
        through: true,
      };
    }
    if (proof.by === 'cluster') {
      const access = this.connections.access(connectionId ?? '');
      if (!access) throw new CannotAsk('The connection was removed.');
      return {
        url,
        headers: tokenOf(access),
        agent: this.agent(access.authority),
        proves: 'cluster',
        through: false,
      };
    }
    return {
      url,
      headers: headersOf(proof),
      agent: proof.by === 'certificate' ? this.agent(authority, proof) : this.agent(authority),
      proves: proof.by,
      through: false,
    };
  }

  private agent(authority: string, own?: { certificate: string; key: string }): Agent {
    const print = createHash('sha256')
      .update(JSON.stringify([authority, own]))
      .digest('base64');
    const known = this.agents.get(print);
    if (known) return known;
    const agent = this.guard.agent(authority, own);
    this.agents.set(print, agent);
    return agent;
  }
}

function tokenOf({ name, token }: ConnectionAccess): Record<string, string> {
  if (token === '')
    throw new CannotAsk(`No token is kept for the cluster ${name} at its address: enter one (Sources).`);
  return { authorization: `Bearer ${token}` };
}
function headersOf(proof: Proof): Record<string, string> {
  if (proof.by === 'bearer') return { authorization: `Bearer ${proof.token}` };
  if (proof.by === 'basic')
    return { authorization: `Basic ${Buffer.from(`${proof.user}:${proof.password}`).toString('base64')}` };
  return {};
}
