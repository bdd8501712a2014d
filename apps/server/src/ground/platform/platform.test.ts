import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { type AddressInfo, createServer } from 'node:net';
import { hostname, networkInterfaces, tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { request } from 'undici';
import { afterEach, describe, expect, it } from 'vitest';
import { AddressGuard } from './addressGuard.ts';
import { ConfigError, readConfig } from './config.ts';
import { failureInWords, statusInWords } from './failureWords.ts';
import { ServerLog } from './logger.ts';
import { schemaRefusal } from './refusals.ts';
import { Secrets } from './secrets.ts';

describe('settings', () => {
  const good = { ZETOPSIS_DATABASE_URL: 'postgres://u:p@127.0.0.1:5432/z', ZETOPSIS_DATA_DIR: '/tmp/z' };
  it('have sensible values where nothing is said', () => {
    expect(readConfig(good)).toMatchObject({
      port: 8484,
      host: '127.0.0.1',
      publicUrl: 'http://127.0.0.1:8484',
      smtpUrl: null,
      zone: 'UTC',
      allowAddresses: [],
    });
    expect(
      readConfig({
        ...good,
        ZETOPSIS_PUBLIC_URL: 'https://z.test/',
        ZETOPSIS_ALLOW_ADDRESSES: ' 10.0.0.1 , 10.1.0.0/16,',
      }),
    ).toMatchObject({ publicUrl: 'https://z.test', allowAddresses: ['10.0.0.1', '10.1.0.0/16'] });
  });
  it('name every variable that is wrong, and say what was wrong', () => {
    const bad = {
      ...good,
      ZETOPSIS_DATABASE_URL: 'mysql://x',
      ZETOPSIS_DATA_DIR: '',
      ZETOPSIS_PORT: '99999',
      ZETOPSIS_ZONE: 'Nowhere/Else',
      ZETOPSIS_SMTP_URL: 'http://x',
      ZETOPSIS_DEMO_FILE: '/no/such/file',
    };
    let message = '';
    try {
      readConfig(bad);
    } catch (error) {
      expect(error).toBeInstanceOf(ConfigError);
      message = error instanceof Error ? error.message : '';
    }
    for (const words of [
      'ZETOPSIS_DATABASE_URL must be a postgres:// address',
      'ZETOPSIS_DATA_DIR is missing',
      'ZETOPSIS_PORT',
      'ZETOPSIS_ZONE must be a time zone',
      'ZETOPSIS_SMTP_URL must be smtp',
      'ZETOPSIS_DEMO_FILE names no file',
    ])
      expect(message).toContain(words);
  });
});

describe('secrets', () => {
  const folders: string[] = [];
  const folder = () => {
    const made = mkdtempSync(join(tmpdir(), 'zetopsis-keys-'));
    folders.push(made);
    return made;
  };
  afterEach(() => {
    for (const made of folders.splice(0)) rmSync(made, { recursive: true, force: true });
  });
  it('come back, differ each time, and are found again after a restart', () => {
    const where = folder();
    const secrets = new Secrets(where);
    const [one, two] = [secrets.encrypt('tøken'), secrets.encrypt('tøken')];
    expect(one).not.toBe(two);
    expect(one).not.toContain('tøken');
    expect([one, two].map((stored) => new Secrets(where).decrypt(stored))).toEqual(['tøken', 'tøken']);
  });
  it('refuse what was tampered with, and name a key that is missing', () => {
    const secrets = new Secrets(folder());
    const [id, iv, tag, body] = secrets.encrypt('token').split('.') as [string, string, string, string];
    const other = Buffer.from(body, 'base64url');
    other[0]! ^= 1;
    expect(() => secrets.decrypt([id, iv, tag, other.toString('base64url')].join('.'))).toThrow();
    expect(() => new Secrets(folder()).decrypt([id, iv, tag, body].join('.'))).toThrow(new RegExp(id));
  });
  it('can rotate their key: the newest encrypts, older ones still decrypt', () => {
    const where = folder();
    const stored = new Secrets(where).encrypt('token');
    const file = join(where, 'secret-keys.json');
    const { keys } = JSON.parse(readFileSync(file, 'utf8')) as { keys: unknown[] };
    writeFileSync(
      file,
      JSON.stringify({ keys: [{ id: 'new', key: Buffer.alloc(32, 7).toString('base64') }, ...keys] }),
    );
    const rotated = new Secrets(where);
    expect(rotated.decrypt(stored)).toBe('token');
    expect(rotated.encrypt('x')).toMatch(/^new\./);
  });
});

describe('the deny list', () => {
  const guard = (allow: string[] = []) => new AddressGuard(allow, 'postgres://u:p@db.test:5444/z');
  const refused = (allow: string[], addresses: readonly string[]) =>
    addresses.filter((address) => guard(allow).refusal(address) !== null);
  const NOWHERE = [
    ...['127.0.0.1', '127.9.9.9', '::1', '::ffff:127.0.0.1', '0.0.0.0', '0.1.2.3', '::', 'fe80::1', 'fe80::1%eth0'],
    ...['169.254.169.254', '224.0.0.1', '255.255.255.255', '240.0.0.1', 'ff02::1'],
    // what leads to any IPv4 address, whatever stands in front of it
    ...['64:ff9b::7f00:1', '64:ff9b:1::7f00:1', '2002:7f00:1::', '2001:0:53aa:64c:0:fffe:80ff:fffe'],
    ...['::ffff:0:127.0.0.1', '::127.0.0.1', '::10.0.0.1', 'fec0::1', '2001:db8::1', '100::1'],
    // where machines that are rented are told their secrets
    ...['fd00:ec2::254', '168.63.129.16', '100.100.100.200', '192.0.0.192'],
  ];
  it('refuses what is nobody’s place in every spelling, and nothing ordinary', () => {
    expect(refused([], NOWHERE)).toEqual(NOWHERE);
    expect(refused([], ['10.0.0.1', '192.168.1.1', '8.8.8.8', '2a00:1450::1', 'fd12::1', '100.64.0.1'])).toEqual([]);
  });
  it('excepts what it is told to, by address or network, and no more', () => {
    expect(refused(['127.0.0.1'], ['127.0.0.1', '127.0.0.2', '::1'])).toEqual(['127.0.0.2', '::1']);
    expect(refused(['127.0.0.0/8', '::1'], ['127.0.0.2', '::1', '169.254.1.1'])).toEqual(['169.254.1.1']);
    // a network does not except what tells secrets within it; the address itself does
    expect(refused(['169.254.0.0/16', 'fd00::/8'], ['169.254.1.1', '169.254.169.254', 'fd00:ec2::254'])).toEqual([
      '169.254.169.254',
      'fd00:ec2::254',
    ]);
    expect(refused(['169.254.169.254'], ['169.254.169.254'])).toEqual([]);
  });
  it('says which kind of address it is', () => {
    expect(() => guard().checkUrl(new URL('https://[::1]:443/'))).toThrow(/loopback/);
    expect(() => guard().checkUrl(new URL('https://2130706433/'))).toThrow(/127\.0\.0\.1 is a loopback address/);
    expect(() => guard().checkUrl(new URL('https://[64:ff9b::7f00:1]/'))).toThrow(/a NAT64 address/);
  });
  it.each(['127.0.0.1', 'localhost', '[::1]'])(
    'never lets anybody to Zetopsis’ own database at %s, by no name or form, though loopback is excepted',
    async (host) => {
      let visits = 0;
      const database = createServer((socket) => {
        visits++;
        socket.destroy();
      });
      await new Promise<void>((done) => {
        database.listen(0, '::', done);
      });
      const { port } = database.address() as AddressInfo;
      const allow = ['127.0.0.0/8', '::1', '0.0.0.0', '::', '::/96', '64:ff9b::/96'];
      const own = new AddressGuard(allow, `postgres://u:p@${host}:${port}/z`);
      const agent = own.agent('');
      const names = ['127.0.0.1', '127.0.0.2', 'localhost', '2130706433', '0x7f.1', '0.0.0.0', '[::1]', '[::]'];
      const forms = ['[::ffff:127.0.0.1]', hostname(), ...addressesHere()];
      try {
        for (const name of [...names, ...forms])
          await expect(
            request(`http://${name}:${port}/`, { dispatcher: agent }),
            `${name} is refused`,
          ).rejects.toMatchObject({ code: 'ADDRESS_DENIED' });
        expect(visits).toBe(0);
        // another port of this machine is excepted
        await expect(request('http://127.0.0.1:9/', { dispatcher: agent })).rejects.toMatchObject({
          code: 'ECONNREFUSED',
        });
      } finally {
        await agent.destroy();
        database.close();
      }
    },
  );
});
/** Of this machine, as they stand in a URL. */
function addressesHere(): string[] {
  return Object.values(networkInterfaces())
    .flatMap((all) => all ?? [])
    .filter(({ scopeid }) => !scopeid)
    .map(({ address, family }) => (family === 'IPv6' ? `[${address}]` : address));
}

it('failures are told in words that end with what to do', () => {
  const failure = (code: string) => failureInWords(Object.assign(new Error('x'), { code }));
  expect(failure('ECONNREFUSED')).toMatch(/Nothing listens.*Check the port/);
  expect(
    failureInWords(new Error('fetch failed', { cause: Object.assign(new Error('inner'), { code: 'ENOTFOUND' }) })),
  ).toMatch(/cannot be resolved/);
  expect(failureInWords(new DOMException('slow', 'TimeoutError'))).toMatch(/No answer in time/);
  expect(failureInWords('odd')).toBe('odd. It will be tried again.');
  for (const code of [
    'ECONNRESET',
    'EHOSTUNREACH',
    'CERT_HAS_EXPIRED',
    'EPROTO',
    'ERR_TLS_CERT_ALTNAME_INVALID',
    'SELF_SIGNED_CERT_IN_CHAIN',
  ])
    expect(failure(code)).toMatch(/\.$/);
  expect([401, 403, 404, 302, 503, 418].map(statusInWords)).toEqual([
    expect.stringContaining('not accepted'),
    expect.stringContaining('get, list and watch'),
    expect.stringContaining('Check the path'),
    expect.stringContaining('redirects'),
    expect.stringContaining('tried again'),
    'The other side answered 418.',
  ]);
});

it('a schema’s findings become fields with their places', () => {
  const refusal = schemaRefusal([{ message: 'too long', path: ['nodePage', { key: 'path' }, 0] }, { message: 'odd' }]);
  expect(refusal).toMatchObject({
    code: 'invalid',
    message: 'nodePage.path.0: too long',
    fields: [
      { path: 'nodePage.path.0', text: 'too long' },
      { path: '', text: 'odd' },
    ],
  });
});

it('what proves who asks stands in no log', () => {
  const lines: string[] = [];
  const log = ServerLog.create('debug', { write: (line: string) => void lines.push(line) });
  log.pino.info({
    req: { headers: { cookie: 'secret-1', authorization: 'Bearer secret-2' } },
    res: { headers: { 'set-cookie': ['session=secret-3'] } },
  });
  expect(lines.join('')).toContain('req');
  expect(lines.join('')).not.toContain('secret-');
});

it('no pattern that somebody gives becomes a regular expression', () => {
  const root = fileURLToPath(new URL('../../../../..', import.meta.url));
  const built = ['packages/core/src', 'packages/contract/src', 'apps/server/src'].flatMap((folder) =>
    readdirSync(join(root, folder), { recursive: true })
      .map((name) => join(folder, String(name)))
      .filter((name) => name.endsWith('.ts') && !name.endsWith('.test.ts'))
      .filter((name) => /\bRegExp\(/.test(readFileSync(join(root, name), 'utf8'))),
  );
  // made of its own parts once, at the start
  expect(built).toEqual(['apps/server/src/inflow/connections/proxyPath.ts']);
});
