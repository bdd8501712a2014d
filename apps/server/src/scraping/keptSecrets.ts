import type { Secrets } from '../platform/secrets.ts';

/** Secrets by the name of what they belong to, encrypted with the place they are meant for: whatever changes later, they go nowhere else. */
export class KeptSecrets {
  private readonly encrypted = new Map<string, string>();
  constructor(
    private readonly secrets: Secrets,
    private readonly unreadable: (key: string, error: unknown) => void,
  ) {}

  /** As the database has it; empty: none. */
  note(key: string, encrypted: string): void {
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
  of(key: string, place: string): string {
    const encrypted = this.encrypted.get(key);
    if (encrypted === undefined) return '';
    try {
      const [meantFor, ...secret] = this.secrets.decrypt(encrypted).split('\n');
      return meantFor === place ? secret.join('\n') : '';
    } catch (error) {
      this.unreadable(key, error);
      return '';
    }
  }
}
