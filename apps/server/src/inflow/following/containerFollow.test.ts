import type { LineGap } from '@zetopsis/contract';
import { momentOf, type PartedLine } from '@zetopsis/core/lines';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { Refusal } from '../../ground/platform/refusals.ts';
import { ContainerFollow, type Followed, type FollowTools } from './containerFollow.ts';
import type { Position } from './follow.store.ts';

const ORIGIN = {
  cluster: 'seaward',
  namespace: 'pier-data',
  workload: { kind: 'stateful set', name: 'archive' },
  pod: 'archive-0',
  container: 'archive',
  node: 'seaward-01',
  service: null,
  host: null,
  untied: null,
} as const;
const START = Date.parse('2026-11-24T03:00:00Z');
const stamp = (second: number) => new Date(START + second * 1000).toISOString();

/** A container as its cluster has it, and what was kept of its lines. */
class Fake {
  readonly kept: string[] = [];
  readonly gaps: Omit<LineGap, 'pod' | 'container'>[] = [];
  position: Position | null = null;
  runs: string[][] = [[]];
  /** Refuses so often before it takes something. */
  refusals = 0;
  /** The cluster refuses to tell. */
  denied: string | null = null;
  room = Number.POSITIVE_INFINITY;
  private hear: (() => void) | null = null;

  write(second: number, text: string): void {
    this.runs.at(-1)!.push(`${stamp(second)} ${text}`);
    this.hear?.();
  }
  get followed(): Followed {
    const restarts = this.runs.length - 1;
    return { place: 'a', origin: ORIGIN, restarts, began: true, runs: true, hasPrevious: restarts > 0 };
  }
  readonly tools: FollowTools = {
    now: () => START + 5 * 60_000,
    position: async () => this.position,
    open: (_, of) => this.lines(of),
    patterns: () => [],
    admitted: (_, lines) => ({ taken: Math.min(lines, this.room), giveBack: () => undefined }),
    take: async ({ position }, _, lines: PartedLine[]) => {
      if (this.refusals-- > 0) throw new Refusal('tooMany', 'more than can be stored now');
      this.kept.push(...lines.map(({ text }) => text));
      this.position = position as Position; // it bears one
      return true;
    },
    gap: async (_, { from, to, why }) => void this.gaps.push({ from, to, why }),
    counted: () => undefined,
  };
  private async *lines({ since, follow, previous, signal, opened }: Parameters<FollowTools['open']>[1]) {
    if (this.denied !== null) throw new Refusal('unavailable', this.denied);
    opened();
    const run = this.runs.at(previous ? -2 : -1)!;
    const fresh = (lines: string[]) => lines.filter((line) => momentOf(line.split(' ')[0]!) >= since.getTime());
    yield fresh(run);
    let told = run.length;
    while (follow && !signal.aborted && run === this.runs.at(-1)) {
      await new Promise<void>((done) => {
        this.hear = done;
        signal.addEventListener('abort', () => done(), { once: true });
      });
      if (told < run.length) yield fresh(run.slice(told));
      told = run.length;
    }
  }
  restart(): void {
    this.runs.push([]);
    this.hear?.();
  }
}
const following: ContainerFollow[] = [];
function follow(fake: Fake): ContainerFollow {
  const made = new ContainerFollow(fake.followed, fake.tools);
  following.push(made);
  return made;
}
const settled = () => vi.advanceTimersByTimeAsync(1500);
function begin(): Fake {
  vi.useFakeTimers({ now: START });
  return new Fake();
}
afterEach(async () => {
  await Promise.all(following.splice(0).map((one) => one.stop()));
  vi.useRealTimers();
});

describe('a container that is followed', () => {
  it('is read from shortly before, then as it writes', async () => {
    const fake = begin();
    fake.write(1, 'a');
    follow(fake);
    await settled();
    expect(fake.kept).toEqual(['a']);
    fake.write(2, 'b');
    fake.write(2, ' more of b');
    await settled();
    expect(fake.kept).toEqual(['a', 'b\n more of b']);
    expect(fake.position).toMatchObject({ stamp: stamp(2), same: 2, restarts: 0 });
  });
  it('goes on where it was left, however often it is stopped', async () => {
    const fake = begin();
    for (let second = 0; second < 12; second++) {
      const one = follow(fake);
      fake.write(Math.floor(second / 3), `line ${second}`);
      await settled();
      await one.stop();
    }
    expect(fake.kept).toEqual(Array.from({ length: 12 }, (_, i) => `line ${i}`));
    expect(fake.gaps).toEqual([]);
  });
  it('that restarted meanwhile is read to the end of its run before', async () => {
    const fake = begin();
    fake.write(1, 'a');
    const one = follow(fake);
    await settled();
    await one.stop();
    fake.write(2, 'b');
    fake.restart();
    fake.write(3, 'c');
    follow(fake);
    await settled();
    expect(fake.kept).toEqual(['a', 'b', 'c']);
    expect(fake.gaps).toEqual([]);
  });
  it('that restarted twice has a gap: the cluster keeps the last run only', async () => {
    const fake = begin();
    fake.write(1, 'a');
    const one = follow(fake);
    await settled();
    await one.stop();
    fake.restart();
    fake.write(2, 'lost');
    fake.restart();
    fake.write(3, 'c');
    fake.restart();
    fake.write(4, 'd');
    follow(fake);
    await settled();
    expect(fake.kept).toEqual(['a', 'c', 'd']);
    expect(fake.gaps).toEqual([{ from: START + 1000, to: START + 3000, why: 'restarted' }]);
  });
  it('has a gap where the cluster threw lines away', async () => {
    const fake = begin();
    fake.write(1, 'a');
    const one = follow(fake);
    await settled();
    await one.stop();
    fake.runs = [[]];
    fake.write(9, 'b');
    follow(fake);
    await settled();
    expect(fake.kept).toEqual(['a', 'b']);
    expect(fake.gaps).toEqual([{ from: START + 1000, to: START + 9000, why: 'gone' }]);
  });
  it('loses nothing that cannot be stored now, and says why it waits', async () => {
    const fake = begin();
    fake.refusals = 2;
    fake.write(1, 'a');
    const one = follow(fake);
    await settled();
    expect(one.trouble?.why).toContain('more than can be stored');
    await vi.advanceTimersByTimeAsync(5000);
    expect(fake.kept).toEqual(['a']);
    expect(one.trouble).toBeNull();
  });
  it('says what the cluster says, and is tried again', async () => {
    const fake = begin();
    fake.denied = 'pods/log is forbidden';
    fake.write(1, 'a');
    const one = follow(fake);
    await settled();
    expect(one.trouble).toMatchObject({ why: 'pods/log is forbidden' });
    expect(one.isOpen).toBe(false);
    fake.denied = null;
    await vi.advanceTimersByTimeAsync(60_000);
    expect(fake.kept).toEqual(['a']);
    expect(one.trouble).toBeNull();
  });
  it('takes no more than its owner wants a day, and goes on behind what was dropped', async () => {
    const fake = begin();
    fake.room = 1;
    fake.write(1, 'a');
    fake.write(2, 'b');
    fake.write(3, 'c');
    follow(fake);
    await settled();
    expect(fake.kept.length).toBeLessThan(3);
    expect(fake.position?.stamp).toBe(stamp(3));
  });
});
