import { lookup as systemLookup } from 'node:dns';
import type { LookupFunction } from 'node:net';
import { createSecureContext } from 'node:tls';
import ipaddr from 'ipaddr.js';
import { Agent } from 'undici';

const KEPT_OPEN = 90_000; // ms
const DENIED = new Set(['loopback', 'linkLocal', 'unspecified', 'multicast', 'broadcast', 'reserved']);

class AddressDenied extends Error {
  readonly code = 'ADDRESS_DENIED';
}

/**
 * Decides which addresses the server may connect to on somebody's word. The check is made on the address the connection
 * really goes to, after the name is resolved, so that a name that resolves differently the second time gains nothing.
 */
export class AddressGuard {
  private readonly allowed: [ipaddr.IPv4 | ipaddr.IPv6, number][];
  private readonly database: { host: string; port: string };

  constructor(allow: readonly string[], databaseUrl: string) {
    this.allowed = allow.map((text) =>
      text.includes('/')
        ? ipaddr.parseCIDR(text)
        : [ipaddr.process(text), ipaddr.process(text).kind() === 'ipv4' ? 32 : 128],
    );
    const url = new URL(databaseUrl);
    this.database = { host: url.hostname, port: url.port || '5432' };
  }

  /** Null when the address may be used, else why not. */
  refusal(address: string, port: string): string | null {
    const ip = ipaddr.process(address);
    if (port === this.database.port && ['127.0.0.1', '::1', this.database.host].includes(address))
      return 'this is Zetopsis’ own database';
    const range = ip.range();
    if (!DENIED.has(range)) return null;
    const excepted = this.allowed.some(([net, bits]) => net.kind() === ip.kind() && ip.match([net, bits] as never)); // same kind on both sides
    return excepted
      ? null
      : `${address} is a ${range === 'linkLocal' ? 'link-local' : range} address; ZETOPSIS_ALLOW_ADDRESSES can except it`;
  }

  /** A connection pool that goes only where it may. Redirects are not followed by its users. */
  agent(authority: string, own?: { certificate: string; key: string }): Agent {
    const secrets = {
      ...(authority === '' ? {} : { ca: authority }),
      ...(own ? { cert: own.certificate, key: own.key } : {}),
    };
    return new Agent({
      // enough that hundreds of pages which hang behind one address leave room for those that answer
      connections: 1024,
      pipelining: 1,
      headersTimeout: 30_000,
      bodyTimeout: 0,
      // longer than most intervals: a handshake costs more than a page
      keepAliveTimeout: KEPT_OPEN,
      keepAliveMaxTimeout: KEPT_OPEN,
      connect: {
        timeout: 10_000,
        // made once: reading the authority's certificates anew for each connection costs more than the page
        secureContext: createSecureContext(secrets),
        lookup: this.lookup,
      },
    });
  }

  /** For names; literal addresses never reach a look-up and are checked by `checkUrl`. */
  private readonly lookup: LookupFunction = (hostname, options, callback) => {
    systemLookup(hostname, { ...options, all: true }, (error, addresses) => {
      if (error) return callback(error, '', 4);
      const fit = addresses.filter(({ address }) => this.refusal(address, '') === null);
      if (fit.length === 0) {
        return callback(
          new AddressDenied(
            `${hostname} resolves to ${addresses.map(({ address }) => address).join(', ')}, where connecting is not allowed`,
          ),
          '',
          4,
        );
      }
      if (options.all) callback(null, fit);
      else callback(null, fit[0]!.address, fit[0]!.family);
    });
  };

  checkUrl(url: URL): void {
    const host = url.hostname.replace(/^\[|\]$/g, '');
    if (!ipaddr.isValid(host)) {
      const own = [this.database.host, 'localhost'].includes(host) && url.port === this.database.port;
      if (own) throw new AddressDenied('this is Zetopsis’ own database');
      return;
    }
    const why = this.refusal(host, url.port || (url.protocol === 'https:' ? '443' : '80'));
    if (why !== null) throw new AddressDenied(why);
  }
}
