import { createHash } from 'node:crypto';
import type { Secrets } from './secrets.ts';

/** Where a secret may go: an origin, and the authority that vouches for who answers there. */
export const placeOf = ({ address, authority }: { readonly address: string; readonly authority: string }): string =>
  `${new URL(address).origin} ${createHash('sha256').update(authority).digest('base64url').slice(0, 22)}`;

/** Secrets by the name of what they belong to, encrypted with the place they are meant for: whatever changes later, they go nowhere else. */
export class KeptSecrets {
  private readonly encrypted = new Map<string, string>();
  /** Asked for with every page that is read. */
  private readonly decrypted = new Map<string, string>();
  constructor(
    private readonly secrets: Secrets,
    private readonly unreadable: (key: string, error: unknown) => void,
  ) {}

  /** As the database has it; empty: none. */
  note(key: string, encrypted: string): void {
    this.decrypted.delete(key);
    if (encrypted === '') this.encrypted.delete(key);
    else this.encrypted.set(key, encrypted);
  }
  has(key: string): boolean {
    return this.encrypted.has(key);
  }
  /** What is to be kept in the database; to be noted once it is. */
  sealed(place: string, secret: string): string {
    return secret === '' ? '' : this.secrets.encrypt(`${place}\n${secret}`);
  }
  /** Empty when there is none, or when it was meant for another place. */
  of(key: string, fits: string | ((meantFor: string) => boolean)): string {
    const plain = this.plain(key);
    const end = plain?.indexOf('\n') ?? -1;
    if (plain === null || end < 0) return '';
    const meantFor = plain.slice(0, end);
    return (typeof fits === 'string' ? meantFor === fits : fits(meantFor)) ? plain.slice(end + 1) : '';
  }
  /**
   * Earlier versions kept tokens of clusters without a place, and secrets of endpoints with their origin only: what is to be
   * kept instead, bound to where it went until now; null when it is bound already, or to another place.
   */
  bound(key: string, place: string): string | null {
    const plain = this.plain(key);
    if (plain === null) return null;
    const end = plain.indexOf('\n');
    if (end < 0) return this.sealed(place, plain);
    return plain.slice(0, end) === place.split(' ')[0] ? this.sealed(place, plain.slice(end + 1)) : null;
  }
  private plain(key: string): string | null {
    const encrypted = this.encrypted.get(key);
    if (encrypted === undefined) return null;
    const known = this.decrypted.get(key);
    if (known !== undefined) return known;
    try {
      const plain = this.secrets.decrypt(encrypted);
      this.decrypted.set(key, plain);
      return plain;
    } catch (error) {
      this.unreadable(key, error);
      return null;
    }
  }
}
