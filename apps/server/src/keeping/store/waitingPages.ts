import type { Page } from '@zetopsis/core/exposition';
import type { EpochMs } from '@zetopsis/core/units';
import { isAway, neverFits } from '../../ground/platform/databaseProblem.ts';
import type { Unnamed } from './seriesNumbers.ts';

/** A page whose series have no numbers yet. */
export interface WaitingPage<Told> {
  readonly endpointId: number;
  readonly at: EpochMs;
  readonly readAt: EpochMs;
  readonly durationMs: number;
  readonly page: Pick<Page, 'values' | 'times' | 'exemplars' | 'bytes' | 'slots'>;
  readonly unnamed: Unnamed;
  readonly done: (told: Told) => void;
}

/** Pages that PostgreSQL could not give numbers to, in the order in which they came. Bounded by who pushes them. */
export class WaitingPages<Told> {
  private readonly pages = new Set<WaitingPage<Told>>();
  private readonly ofEndpoint = new Map<number, number>();
  private inHand: WaitingPage<Told> | null = null;
  private size = 0;

  /** What they take in memory, about; one that is just being laid out becomes a row, which is counted there. */
  get bytes(): number {
    return this.size - (this.inHand !== null && this.pages.has(this.inHand) ? sizeOf(this.inHand) : 0);
  }
  get count(): number {
    return this.pages.size;
  }
  /** Of those that may be given up: not the one that is just being laid out. */
  get oldest(): WaitingPage<Told> | undefined {
    for (const page of this.pages) if (page !== this.inHand) return page;
    return undefined;
  }
  get oldestAt(): EpochMs | null {
    let oldest: EpochMs | null = null;
    for (const { at } of this.pages) if (oldest === null || at < oldest) oldest = at;
    return oldest;
  }
  has(endpointId: number): boolean {
    return this.ofEndpoint.has(endpointId);
  }
  push(page: WaitingPage<Told>): void {
    this.pages.add(page);
    this.size += sizeOf(page);
    this.ofEndpoint.set(page.endpointId, (this.ofEndpoint.get(page.endpointId) ?? 0) + 1);
  }
  /** False when it does not wait any more. */
  remove(page: WaitingPage<Told>): boolean {
    if (!this.pages.delete(page)) return false;
    this.size -= sizeOf(page);
    const left = this.ofEndpoint.get(page.endpointId)! - 1; // it was counted
    if (left > 0) this.ofEndpoint.set(page.endpointId, left);
    else this.ofEndpoint.delete(page.endpointId);
    return true;
  }
  removeAll(): WaitingPage<Told>[] {
    const all = [...this.pages];
    for (const page of all) this.remove(page);
    return all;
  }

  /**
   * Tries one page of each endpoint. `lay` removes the page it could lay out; one that never fits, or that came before
   * `giveUpBefore`, is removed and told by `giveUp`. Answers what kept all of them from it, null when any is done with.
   */
  async tryEach(
    lay: (page: WaitingPage<Told>) => Promise<void>,
    giveUpBefore: EpochMs,
    giveUp: (page: WaitingPage<Told>, error: unknown) => void,
  ): Promise<unknown> {
    const tried = new Set<number>();
    let problem: unknown = null;
    let done = false;
    for (const page of [...this.pages]) {
      if (tried.has(page.endpointId) || !this.pages.has(page)) continue;
      tried.add(page.endpointId);
      this.inHand = page;
      try {
        await lay(page);
        done = true;
      } catch (error) {
        problem ??= error;
        if (isAway(error)) break;
        if (!neverFits(error) && page.at > giveUpBefore) continue;
        if (this.remove(page)) giveUp(page, error);
        done = true;
      } finally {
        this.inHand = null;
      }
    }
    return done ? null : problem;
  }
}

/** Texts of new series are counted with each page that names them, though they stand in memory once. */
export const sizeOf = ({
  page,
  unnamed,
}: Pick<WaitingPage<unknown>, 'unnamed'> & { page: Pick<Page, 'values' | 'times'> }) =>
  page.values.length * (page.times ? 24 : 16) + unnamed.fresh.reduce((sum, { key }) => sum + key.length * 2 + 200, 0);
