import { MINUTE } from '@zetopsis/core/units';
import { LRUCache } from 'lru-cache';
import { Refusal } from '../../ground/platform/refusals.ts';

/** So many wrong passwords are free; each further one doubles the wait. */
const FREE = 5;
const FIRST_WAIT = 2_000; // ms
const LONGEST_WAIT = 15 * MINUTE;
const FORGOTTEN = 30 * MINUTE;
/** Of names and browsers together; strangers make names up. */
const MOST = 20_000;

interface Tries {
  readonly failures: number;
  readonly at: number;
}

/**
 * Wrong passwords slow down the next try for the same account. A browser that has signed in to it before is counted by
 * itself, so that a stranger who guesses keeps nobody out. Names that nobody has are slowed down alike: it tells nothing.
 */
export class SignInTries {
  private readonly tries = new LRUCache<string, Tries>({ max: MOST });

  private static keyOf(name: string, browser: string | null): string {
    return browser === null ? `name ${name.toLowerCase()}` : `browser ${browser}`;
  }
  /** Refuses a try that comes too soon after the wrong ones before it. */
  check(name: string, browser: string | null, now: number): void {
    const known = this.tries.peek(SignInTries.keyOf(name, browser));
    if (!known || known.failures < FREE) return;
    const wait = Math.min(LONGEST_WAIT, FIRST_WAIT * 2 ** (known.failures - FREE));
    const left = known.at + wait - now;
    if (left <= 0) return;
    throw new Refusal(
      'tooMany',
      `There were too many wrong passwords for this name: try again in ${Math.ceil(left / 1000)} s. A browser that has signed in before need not wait.`,
      [],
      Math.ceil(left / 1000),
    );
  }
  failed(name: string, browser: string | null, now: number): void {
    const key = SignInTries.keyOf(name, browser);
    const known = this.tries.get(key);
    const failures = known && now - known.at < FORGOTTEN ? known.failures + 1 : 1;
    // the oldest is forgotten first: it waits least
    this.tries.set(key, { failures, at: now });
  }
  /** The right password was given: what others guessed before counts on for them. */
  right(name: string, browser: string | null): void {
    this.tries.delete(SignInTries.keyOf(name, browser));
  }
}
