import { createCipheriv, createDecipheriv, createHmac, randomBytes } from 'node:crypto';
import { chmodSync, existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

interface KeyFile {
  /** The newest key comes first and encrypts; older ones still decrypt, which is how a key is rotated. */
  readonly keys: readonly { readonly id: string; readonly key: string }[];
}

/** Encrypts tokens with a key kept in a 0600 file outside PostgreSQL. AES-256-GCM; `id.iv.tag.text` in base64url. */
export class Secrets {
  private readonly keys: Map<string, Buffer>;
  private readonly newest: string;

  constructor(dataDir: string) {
    mkdirSync(dataDir, { recursive: true, mode: 0o700 });
    const file = join(dataDir, 'secret-keys.json');
    if (!existsSync(file)) {
      const fresh: KeyFile = {
        keys: [{ id: randomBytes(4).toString('hex'), key: randomBytes(32).toString('base64') }],
      };
      writeFileSync(`${file}.new`, JSON.stringify(fresh), { mode: 0o600, flag: 'wx' });
      renameSync(`${file}.new`, file);
    }
    chmodSync(file, 0o600);
    const { keys } = JSON.parse(readFileSync(file, 'utf8')) as KeyFile; // our own file
    this.keys = new Map(keys.map(({ id, key }) => [id, Buffer.from(key, 'base64')]));
    this.newest = keys[0]!.id;
  }

  encrypt(text: string): string {
    const iv = randomBytes(12);
    const cipher = createCipheriv('aes-256-gcm', this.keys.get(this.newest)!, iv);
    const body = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
    return [this.newest, ...[iv, cipher.getAuthTag(), body].map((part) => part.toString('base64url'))].join('.');
  }

  /** Tells whether two values are the same, and to nobody without the key what they are. By the oldest key, so that a rotation changes nothing. */
  fingerprint(text: string): string {
    return createHmac('sha256', [...this.keys.values()].at(-1)!)
      .update('fingerprint')
      .update(text)
      .digest('base64url')
      .slice(0, 16);
  }

  decrypt(stored: string): string {
    const [id = '', iv = '', tag = '', body = ''] = stored.split('.');
    const key = this.keys.get(id);
    if (!key) throw new Error(`the key ${id} that encrypted this secret is not in the key file`);
    const decipher = createDecipheriv('aes-256-gcm', key, Buffer.from(iv, 'base64url'));
    decipher.setAuthTag(Buffer.from(tag, 'base64url'));
    return Buffer.concat([decipher.update(Buffer.from(body, 'base64url')), decipher.final()]).toString('utf8');
  }
}
