import { lookup } from 'node:dns/promises';
import type { LookupFunction } from 'node:net';
import { networkInterfaces } from 'node:os';
import { createSecureContext } from 'node:tls';
import ipaddr from 'ipaddr.js';
import { Agent, buildConnector } from 'undici';
import { turn } from './inPieces.ts';

const KEPT_OPEN = 90_000; // ms
/**
 * Where machines really are, as the library names it; the rest leads back to this machine, to its neighbours on the wire, or
 * through something that translates into any IPv4 address, loopback ones too.
 */
const PLACES: ReadonlySet<string> = new Set(['unicast', 'private', 'uniqueLocal', 'carrierGradeNat']);
/** IPv4-compatible addresses (RFC 4291, 2.5.5.1), given up long ago; the library takes them for ordinary ones. */
const COMPATIBLE = ipaddr.parseCIDR('::/96');
/** At which machines that are rented are told who they are, with the secrets that go with it; all but the first lie in no special range. */
const TELLS_SECRETS = ['169.254.169.254', 'fd00:ec2::254', '168.63.129.16', '100.100.100.200', '192.0.0.192'].map(
  (address) => ipaddr.parse(address).toNormalizedString(),
);

class AddressDenied extends Error {
  readonly code = 'ADDRESS_DENIED';
}

type Address = ipaddr.IPv4 | ipaddr.IPv6;
const rangeOf = (ip: Address): string =>
  ip.kind() === 'ipv6' && ip.range() === 'unicast' && (ip as ipaddr.IPv6).match(COMPATIBLE)
    ? 'ipv4Compatible'
    : ip.range();
const WORDS: Readonly<Record<string, string>> = {
  linkLocal: 'a link-local',
  deprecatedSiteLocal: 'a site-local',
  rfc6052: 'a NAT64',
  rfc6145: 'an IPv4-translated',
  '6to4': 'a 6to4',
  ipv4Compatible: 'an IPv4-compatible',
};

/**
 * Decides which addresses the server may connect to on somebody's word. The check is made on the address the connection
 * really goes to, after the name is resolved, so that a name that resolves differently the second time gains nothing.
 */
export class AddressGuard {
  private readonly allowed: [Address, number][];
  private readonly database: { host: string; port: string };

  constructor(allow: readonly string[], databaseUrl: string) {
    this.allowed = allow.map((text) =>
      text.includes('/')
        ? ipaddr.parseCIDR(text)
        : [ipaddr.process(text), ipaddr.process(text).kind() === 'ipv4' ? 32 : 128],
    );
    const url = new URL(databaseUrl);
    this.database = { host: url.hostname.replace(/^\[|\]$/g, '') || 'localhost', port: url.port || '5432' };
  }

  /** Null when the address may be used, else why not. Our own database is looked for apart: its name must be resolved. */
  refusal(address: string): string | null {
    const ip = read(address);
    const excepted = (exactly: boolean) =>
      this.allowed.some(
        ([net, bits]) =>
          net.kind() === ip.kind() &&
          (!exactly || bits === (ip.kind() === 'ipv4' ? 32 : 128)) &&
          ip.match([net, bits] as never), // same kind on both sides
      );
    if (TELLS_SECRETS.includes(ip.toNormalizedString()))
      return excepted(true)
        ? null
        : `${address} tells rented machines their secrets; ZETOPSIS_ALLOW_ADDRESSES can except it by itself`;
    const range = rangeOf(ip);
    if (PLACES.has(range) || excepted(false)) return null;
    return `${address} is ${WORDS[range] ?? `a ${range}`} address; ZETOPSIS_ALLOW_ADDRESSES can except it`;
  }

  /** Whether an address and port are those of our own database, by whatever name or form, on this machine too. */
  private async isDatabase(address: string, port: string): Promise<boolean> {
    if (port !== this.database.port) return false;
    const ip = read(address);
    const own = await this.databaseAddresses();
    if (own.includes(ip.toNormalizedString())) return true;
    // a database on this machine answers at every address that the machine has
    const here = [...Object.values(networkInterfaces())].flatMap((all) => all ?? []).map((one) => normal(one.address));
    const isHere = (normalized: string) => ipaddr.parse(normalized).range() === 'loopback' || here.includes(normalized);
    return own.some(isHere) && (isHere(ip.toNormalizedString()) || ip.range() === 'unspecified');
  }
  private async databaseAddresses(): Promise<string[]> {
    const { host } = this.database;
    if (ipaddr.isValid(host)) return [normal(host)];
    try {
      return (await lookup(host, { all: true })).map(({ address }) => normal(address));
    } catch {
      return [];
    }
  }
  private async check(addresses: readonly { address: string; family: number }[], port: string) {
    const fit: { address: string; family: number }[] = [];
    let why: string | null = null;
    for (const one of addresses) {
      const refusal = (await this.isDatabase(one.address, port))
        ? 'this is Zetopsis’ own database'
        : this.refusal(one.address);
      if (refusal === null) fit.push(one);
      else why ??= refusal;
    }
    return { fit, why };
  }

  /** A connection pool that goes only where it may. Redirects are not followed by its users. */
  agent(authority: string, own?: { certificate: string; key: string }): Agent {
    const secrets = {
      ...(authority === '' ? {} : { ca: authority }),
      ...(own ? { cert: own.certificate, key: own.key } : {}),
    };
    const connectors = new Map<string, ReturnType<typeof buildConnector>>();
    // made once: reading the authority's certificates anew for each connection costs more than the page
    const secureContext = createSecureContext(secrets);
    const connectorFor = (port: string) => {
      const known = connectors.get(port);
      if (known) return known;
      const made = buildConnector({ timeout: 10_000, secureContext, lookup: this.lookupFor(port) });
      connectors.set(port, made);
      return made;
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
      connect: (options, callback) => {
        const port = String(options.port || (options.protocol === 'https:' ? 443 : 80));
        const host = options.hostname.replace(/^\[|\]$/g, '');
        // a handshake begins at each turn of the event loop: when a cluster closes all its streams, none waits for all of them
        const begin = async () => {
          await turn();
          try {
            connectorFor(port)(options, callback);
          } catch (error) {
            callback(error instanceof Error ? error : new Error(String(error)), null);
          }
        };
        if (!ipaddr.isValid(host)) return void begin();
        this.check([{ address: host, family: ipaddr.parse(host).kind() === 'ipv4' ? 4 : 6 }], port).then(
          ({ why }) => (why === null ? begin() : callback(new AddressDenied(why), null)),
          (error: unknown) => callback(error instanceof Error ? error : new Error(String(error)), null),
        );
      },
    });
  }

  /** For names: what they resolve to is checked, and only that is connected to. */
  private readonly lookupFor =
    (port: string): LookupFunction =>
    (hostname, options, callback) => {
      const failed = (error: Error) => callback(error, '', 4);
      const find = async () => {
        const addresses = await lookup(hostname, { ...options, all: true });
        const { fit, why } = await this.check(addresses, port);
        if (fit.length === 0)
          throw new AddressDenied(
            why === 'this is Zetopsis’ own database'
              ? why
              : `${hostname} resolves to ${addresses.map(({ address }) => address).join(', ')}, where connecting is not allowed`,
          );
        return fit;
      };
      find().then(
        (fit) => (options.all ? callback(null, fit) : callback(null, fit[0]!.address, fit[0]!.family)), // not empty
        failed,
      );
    };

  /** What can be said before anything is connected to: names are looked at when they are resolved. */
  checkUrl(url: URL): void {
    const host = url.hostname.replace(/^\[|\]$/g, '');
    const port = url.port || (url.protocol === 'https:' ? '443' : '80');
    if (host === this.database.host && port === this.database.port)
      throw new AddressDenied('this is Zetopsis’ own database');
    if (!ipaddr.isValid(host)) return;
    const why = this.refusal(host);
    if (why !== null) throw new AddressDenied(why);
  }
}

/** Read in its plain form: with dots at its end the library takes an IPv6 address for the IPv4 one in it. */
function read(address: string): Address {
  const plain = address.replace(/%.*$/, '');
  return ipaddr.process(plain.includes(':') ? new URL(`http://[${plain}]`).hostname.slice(1, -1) : plain);
}
const normal = (address: string): string => read(address).toNormalizedString();
