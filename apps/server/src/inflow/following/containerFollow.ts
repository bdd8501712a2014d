import { createHash } from 'node:crypto';
import type { LineGap } from '@zetopsis/contract';
import {
  ENTRY_LIMITS,
  Entries,
  type Entry,
  givenLine,
  type MaskedCounts,
  momentOf,
  nothingMasked,
  type OwnPattern,
  partLine,
  Resumed,
} from '@zetopsis/core/lines';
import type { Origin } from '@zetopsis/core/origins';
import { type EpochMs, MINUTE, SECOND } from '@zetopsis/core/units';
import { failureInWords } from '../../ground/platform/failureWords.ts';
import { Pieces } from '../../ground/platform/inPieces.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import type { PushMark } from '../../keeping/records/recordStore.ts';
import { ApiRefusal } from '../connections/clusterClient.ts';
import type { Position } from './follow.store.ts';

/** One container of a pod, as the inventory has it now. */
export interface Followed {
  readonly place: string;
  readonly origin: Origin & { readonly pod: string; readonly container: string };
  readonly restarts: number;
  /** It has written, or may write: it runs, or ran. */
  readonly began: boolean;
  readonly runs: boolean;
  /** Its last run before this one is there to be asked for. */
  readonly hasPrevious: boolean;
}
export interface FollowTools {
  readonly now: () => EpochMs;
  readonly position: (place: string) => Promise<Position | null>;
  readonly open: (
    origin: Followed['origin'],
    of: {
      readonly since: Date;
      readonly follow: boolean;
      readonly previous: boolean;
      readonly signal: AbortSignal;
      readonly opened: () => void;
    },
  ) => AsyncGenerator<string[], void>;
  readonly patterns: (origin: Origin) => readonly OwnPattern[];
  /** How many of so many lines are taken, by what the owner wants at most a day. */
  readonly admitted: (origin: Origin, lines: number) => { readonly taken: number; readonly giveBack: () => void };
  readonly take: (mark: PushMark, origin: Origin, lines: ReturnType<typeof partLine>[]) => Promise<boolean>;
  readonly gap: (origin: Followed['origin'], gap: LineGap) => Promise<void>;
  readonly counted: (origin: Origin, lines: number, masked: MaskedCounts) => void;
}
/** What was written before it was known is read so far back. */
const BEFORE = 10 * MINUTE;
/** A stream is opened anew after so long: it may have been dead for long, and goes on where it was. */
const LONGEST = 10 * MINUTE;
const AT_ONCE = 500;
const WAITS = [1, 2, 5, 10, 30].map((seconds) => seconds * SECOND);
const FOLLOW_KEY = 'followed';

/** Reads what one container writes, from where it was left on, until it is stopped. */
export class ContainerFollow {
  private readonly stopping = new AbortController();
  private readonly ended: Promise<void>;
  private upTo: Position | null = null;
  private woken: (() => void) | null = null;
  private failures = 0;
  /** Lines came, or the stream was open, since the last failure. */
  isOpen = false;
  /** Why its lines do not come; null where they do. */
  trouble: { readonly why: string; readonly since: EpochMs } | null = null;

  constructor(
    private of: Followed,
    private readonly tools: FollowTools,
  ) {
    this.ended = this.run();
  }
  get origin(): Followed['origin'] {
    return this.of.origin;
  }
  /** It restarted, or stands elsewhere now. */
  update(of: Followed): void {
    const changed = of.restarts !== this.of.restarts || of.runs !== this.of.runs || of.began !== this.of.began;
    this.of = of;
    if (changed) this.woken?.();
  }
  async stop(): Promise<void> {
    this.stopping.abort();
    this.woken?.();
    await this.ended;
  }
  private get isOver(): boolean {
    return this.stopping.signal.aborted;
  }

  private async run(): Promise<void> {
    while (!this.isOver)
      try {
        this.upTo ??= await this.tools.position(this.of.place);
        await this.round();
        this.failures = 0;
        this.trouble = null;
      } catch (error) {
        this.isOpen = false;
        if (this.isOver) return;
        const why = error instanceof ApiRefusal || error instanceof Refusal ? error.message : failureInWords(error);
        this.trouble = { why, since: this.trouble?.since ?? this.tools.now() };
        await this.wait(WAITS[Math.min(this.failures++, WAITS.length - 1)]!); // within the list
      }
  }
  /** What is there, then what comes, until the stream ends. */
  private async round(): Promise<void> {
    const { restarts, began, runs } = this.of;
    if (!began) return this.wait(LONGEST);
    if (this.upTo !== null && restarts > this.upTo.restarts) await this.catchUp(this.upTo, restarts);
    await this.read({ previous: false, follow: runs, restarts });
    this.isOpen = false;
    // it ended: what it wrote is read; it is looked at again when it restarts
    if (!runs && this.of.restarts === restarts) await this.wait(LONGEST);
    else await this.wait(WAITS[0]!); // it has some
  }
  /** What the run before wrote after what was taken of it. */
  private async catchUp(upTo: Position, restarts: number): Promise<void> {
    const missed = restarts - upTo.restarts > 1;
    const from = momentOf(upTo.stamp);
    if (this.of.hasPrevious) await this.read({ previous: true, follow: false, restarts: restarts - 1 });
    if (missed) {
      const to = this.upTo === null || this.upTo.stamp === upTo.stamp ? this.tools.now() : momentOf(this.upTo.stamp);
      await this.missing({ from, to, why: 'restarted' });
    }
  }
  private async missing(gap: Pick<LineGap, 'from' | 'to' | 'why'>): Promise<void> {
    const { pod, container } = this.of.origin;
    await this.tools.gap(this.of.origin, { ...gap, pod, container, from: Math.floor(gap.from), to: Math.ceil(gap.to) });
  }

  private async read({
    previous,
    follow,
    restarts,
  }: {
    readonly previous: boolean;
    readonly follow: boolean;
    readonly restarts: number;
  }): Promise<void> {
    const before = this.upTo;
    const signal = AbortSignal.any([this.stopping.signal, AbortSignal.timeout(LONGEST)]);
    const given = this.tools.open(this.of.origin, {
      since: new Date(before === null ? this.tools.now() - BEFORE : Math.floor(momentOf(before.stamp) / 1000) * 1000),
      follow,
      previous,
      signal,
      opened: () => {
        this.isOpen = true;
        this.trouble = null;
      },
    });
    // a run that follows another begins with lines of its own: nothing of the one before is in it
    const resumed = new Resumed(before);
    const mayMiss = before !== null && before.restarts === restarts && !previous;
    const entries = new Entries(before);
    let batch: Entry[] = [];
    const keep = async () => {
      const some = batch;
      batch = [];
      if (some.length > 0) await this.keep(some, restarts);
    };
    let next = given.next();
    try {
      for (;;) {
        const got = entries.isOpen ? await soon(next, ENTRY_LIMITS.wait) : await next;
        if (got === null) {
          batch.push(...[entries.end()].flatMap((one) => one ?? []));
          await keep();
          continue;
        }
        if (got.done) break;
        for (const line of got.value) {
          const one = givenLine(line);
          if (one === null || !resumed.isNew(one)) continue;
          if (resumed.missed && mayMiss) {
            resumed.missed = false;
            await this.missing({ from: momentOf(before.stamp), to: momentOf(one.stamp), why: 'gone' });
          }
          const entry = entries.push(one);
          if (entry) batch.push(entry);
          if (batch.length >= AT_ONCE) await keep();
        }
        await keep();
        next = given.next();
      }
    } catch (error) {
      // its time was over: it is opened anew
      if (this.isOver || !signal.aborted) throw error;
    } finally {
      next.catch(() => undefined);
      await given.return().catch(() => undefined);
    }
    batch.push(...[entries.end()].flatMap((one) => one ?? []));
    await keep();
  }

  /** Again and again until they are durable: nobody else would bring them. */
  private async keep(entries: readonly Entry[], restarts: number): Promise<void> {
    const masked = nothingMasked();
    const { origin, place } = this.of;
    const own = this.tools.patterns(origin);
    const pieces = new Pieces();
    const lines: ReturnType<typeof partLine>[] = [];
    for (const { at, text } of entries) {
      lines.push(partLine({ at, severity: 0, text, fields: [], traceId: '', spanId: '' }, masked, own));
      if (pieces.due) await pieces.pause();
    }
    const { upTo } = entries.at(-1)!; // nobody keeps none
    const position = { place, ...upTo, restarts };
    const { taken, giveBack } = this.tools.admitted(origin, lines.length);
    const mark: PushMark = {
      key: FOLLOW_KEY,
      digest: createHash('sha256')
        .update(JSON.stringify([position, entries[0]!.at]))
        .digest(), // nobody keeps none
      position,
    };
    for (let tries = 0; ; tries++)
      try {
        if (!(await this.tools.take(mark, origin, lines.slice(0, taken)))) giveBack();
        break;
      } catch (error) {
        if (this.isOver || !(error instanceof Refusal)) {
          giveBack();
          throw error;
        }
        this.trouble = { why: error.message, since: this.trouble?.since ?? this.tools.now() };
        await this.wait(WAITS[Math.min(tries, WAITS.length - 1)]!); // within the list
      }
    this.trouble = null;
    this.upTo = position;
    this.tools.counted(origin, taken, masked);
  }
  /** Until then, or until something changed. */
  private async wait(ms: number): Promise<void> {
    if (this.isOver) return;
    await new Promise<void>((done) => {
      const timer = setTimeout(done, ms);
      this.woken = () => {
        clearTimeout(timer);
        done();
      };
    });
    this.woken = null;
  }
}

/** What comes within so many ms; null where nothing does. */
async function soon<T>(coming: Promise<T>, ms: number): Promise<T | null> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<null>((done) => {
    timer = setTimeout(() => done(null), ms);
  });
  try {
    return await Promise.race([coming, late]);
  } finally {
    clearTimeout(timer);
  }
}
