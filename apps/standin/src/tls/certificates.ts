import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { generate } from 'selfsigned';

export interface Credentials {
  readonly authority: string;
  readonly certificate: string;
  readonly key: string;
  /** Reads everything the stand-in serves. */
  readonly token: string;
  /** May not read events and daemon sets. */
  readonly narrowToken: string;
}

/** The cluster's own certificate authority and tokens: made once, kept in the state folder so that a restart changes nothing. */
export async function credentialsIn(folder: string): Promise<Credentials> {
  const file = join(folder, 'credentials.json');
  if (existsSync(file)) return JSON.parse(readFileSync(file, 'utf8')) as Credentials; // our own file, 0600
  const year = 365 * 86_400_000;
  const dates = { notBeforeDate: new Date(Date.now() - 86_400_000), notAfterDate: new Date(Date.now() + 5 * year) };
  const authority = await generate([{ name: 'commonName', value: 'seaward certificate authority' }], {
    ...dates,
    keyType: 'ec',
    algorithm: 'sha256',
    extensions: [
      { name: 'basicConstraints', cA: true, critical: true },
      { name: 'keyUsage', keyCertSign: true, cRLSign: true, critical: true },
    ],
  });
  const server = await generate([{ name: 'commonName', value: 'seaward' }], {
    ...dates,
    keyType: 'ec',
    algorithm: 'sha256',
    ca: { key: authority.private, cert: authority.cert },
    extensions: [
      { name: 'basicConstraints', cA: false },
      { name: 'keyUsage', digitalSignature: true, critical: true },
      { name: 'extKeyUsage', serverAuth: true, clientAuth: true },
      {
        name: 'subjectAltName',
        altNames: [
          { type: 7, ip: '127.0.0.1' },
          { type: 2, value: 'localhost' },
        ],
      },
    ],
  });
  const credentials: Credentials = {
    authority: authority.cert,
    certificate: server.cert,
    key: server.private,
    token: randomBytes(24).toString('base64url'),
    narrowToken: randomBytes(24).toString('base64url'),
  };
  mkdirSync(folder, { recursive: true });
  writeFileSync(file, JSON.stringify(credentials), { mode: 0o600 });
  return credentials;
}
