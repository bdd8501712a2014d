import { failureInWords } from '../../ground/platform/failureWords.ts';
import type { Clock } from '../../ground/platform/settings.ts';
import { ApiRefusal, type ClusterClient, type WatchedKind } from './clusterClient.ts';

/** Where the news of one kind goes. `earliest` is when a change may have happened at the earliest; equals `at` while the stream is unbroken. */
export interface KindSink {
  resync(kind: WatchedKind, objects: readonly unknown[], at: number, earliest: number): Promise<void>;
  changed(kind: WatchedKind, object: unknown, at: number, earliest: number): void;
  deleted(kind: WatchedKind, object: unknown, at: number, earliest: number): void;
}

export interface KindState {
  /** Not served: this cluster does not have the kind, which is no failure. */
  state: 'waiting' | 'watching' | 'not allowed' | 'not served' | 'failing';
  reason: string | null;
  since: number;
  resyncs: number;
}

const LIST_TIMEOUT = 60_000;
const FIRST_WAIT = 500;
const LONGEST_WAIT = 30_000;
/** A stream that ends sooner has ended before its time. */
const LASTS_AT_LEAST = 5_000;
const NOT_ALLOWED_WAIT = 60_000;
const NOT_SERVED_WAIT = 10 * 60_000;
/** After a stream is opened again, what it repeats may have happened while it was broken; this long, or to the first bookmark. */
const CATCH_UP = 1500;

/** Lists one kind, then watches it, for ever: again with growing pauses after failures and
 * after streams that end at once, afresh when the version is too old. */
export class KindWatch {
  readonly status: KindState;
  private version: string | null = null;
  /** When the stream was last known to be unbroken; 0 before the first list. */
  private heardAt = 0;
  private wait = FIRST_WAIT;
  /** How many in a row ended before their time. */
  private short = 0;
  private readonly stopped = new AbortController();

  constructor(
    readonly kind: WatchedKind,
    private readonly client: ClusterClient,
    private readonly sink: KindSink,
    private readonly clock: Clock,
    private readonly changedState: () => void,
    /** Tells of the time before this process: when it last heard of this cluster. */
    heardBefore: number,
  ) {
    this.status = { state: 'waiting', reason: null, since: clock.now(), resyncs: 0 };
    this.heardAt = heardBefore;
  }

  get lastHeardAt(): number {
    return this.heardAt;
  }
  stop(): void {
    this.stopped.abort();
  }

  async run(): Promise<void> {
    while (!this.stopped.signal.aborted) {
      const began = this.clock.now();
      const failure = await this.once();
      if (this.stopped.signal.aborted) return;
      if (this.clock.now() - began >= LASTS_AT_LEAST) {
        this.wait = FIRST_WAIT;
        this.short = 0;
      } else this.short++;
      const old = failure instanceof ApiRefusal && failure.status === 410;
      if (old) this.version = null; // everything is listed again
      if (failure !== null && !old) await this.failed(failure);
      // one that ends early is begun again at once; one that always does must not cost the cluster and us all there is
      else if (this.short > 1) await this.waitLonger();
    }
  }
  /** Null when the stream came to its end. */
  private async once(): Promise<unknown> {
    try {
      if (this.version === null) await this.list();
      await this.follow();
      return null;
    } catch (error) {
      return error ?? new Error('no reason is known');
    }
  }
  private async failed(error: unknown): Promise<void> {
    const refused = error instanceof ApiRefusal ? error : null;
    const denied = refused?.status === 401 || refused?.status === 403;
    const missing = refused?.status === 404;
    this.set(
      denied ? 'not allowed' : missing ? 'not served' : 'failing',
      refused ? refused.message : failureInWords(error),
    );
    if (missing) this.version = null;
    if (denied || missing) await this.pause(denied ? NOT_ALLOWED_WAIT : NOT_SERVED_WAIT);
    else await this.waitLonger();
  }
  private async waitLonger(): Promise<void> {
    const wait = this.wait * (0.75 + Math.random() * 0.5);
    this.wait = Math.min(LONGEST_WAIT, this.wait * 2);
    await this.pause(wait);
  }

  /** Tries again without waiting out the pause, when the cluster is known to answer again. */
  hurry(): void {
    this.wake?.();
  }
  private wake: (() => void) | null = null;

  private async list(): Promise<void> {
    const before = this.heardAt;
    const { objects, version } = await this.client.list(this.kind, LIST_TIMEOUT);
    if (this.stopped.signal.aborted) return;
    const at = this.clock.now();
    await this.sink.resync(this.kind, objects, at, before);
    this.status.resyncs++;
    this.version = version;
    this.heardAt = at;
  }

  private async follow(): Promise<void> {
    const brokenSince = this.heardAt;
    let catchUpUntil = 0;
    await this.client.watch({
      kind: this.kind,
      version: this.version!,
      signal: this.stopped.signal,
      opened: () => {
        const now = this.clock.now();
        // a stream that was opened at once after the list, or after its normal end, missed nothing worth a doubt
        catchUpUntil = now - brokenSince > 1000 ? now + CATCH_UP : 0;
        this.set('watching', null);
        this.wait = FIRST_WAIT;
      },
      news: (news) => {
        const at = this.clock.now();
        this.version = news.version;
        const earliest = at < catchUpUntil ? brokenSince : at;
        if (news.is === 'changed') this.sink.changed(this.kind, news.object, at, earliest);
        else if (news.is === 'deleted') this.sink.deleted(this.kind, news.object, at, earliest);
        else catchUpUntil = 0;
        this.heardAt = at;
      },
    });
  }

  private set(state: KindState['state'], reason: string | null): void {
    if (this.status.state === state && this.status.reason === reason) return;
    if (this.status.state !== state) this.status.since = this.clock.now();
    this.status.state = state;
    this.status.reason = reason;
    this.changedState();
  }

  private pause(length: number): Promise<void> {
    return new Promise((done) => {
      const end = () => {
        clearTimeout(timer);
        this.wake = null;
        this.stopped.signal.removeEventListener('abort', end);
        done();
      };
      const timer = setTimeout(end, length);
      this.wake = end;
      this.stopped.signal.addEventListener('abort', end);
    });
  }
}
