import { type ConnectionAnswer, OPTIONAL_KINDS } from '@zetopsis/contract';
import type { Agent } from 'undici';
import { failureInWords } from '../../ground/platform/failureWords.ts';
import type { Clock } from '../../ground/platform/settings.ts';
import { ApiRefusal, type ClusterClient, type LogWanted, WATCHED, type WatchedKind } from './clusterClient.ts';
import { type KindSink, KindWatch } from './kindWatch.ts';

const PROBE_EVERY = 5000;
const PROBE_TIMEOUT = 4000;
const PROBES_KEPT = 6;

type State = Pick<ConnectionAnswer, 'state' | 'since' | 'reason' | 'nextStep' | 'lastContactAt'>;

/** Keeps one cluster's inventory flowing and knows whether it does. */
export class ClusterRunner {
  readonly watches: readonly KindWatch[];
  private readonly stopped = new AbortController();
  private contactAt: number | null = null;
  private probeFailure: string | null = null;
  private current: State;
  private probeTimer: NodeJS.Timeout | null = null;
  /** How long the newest probes took, ms. */
  readonly answeredIn: number[] = [];

  constructor(
    private readonly client: ClusterClient,
    private readonly agent: Agent,
    sink: KindSink,
    private readonly clock: Clock,
    private readonly changed: () => void,
    heardBefore: number,
  ) {
    this.current = { state: 'connecting', since: clock.now(), reason: null, nextStep: null, lastContactAt: null };
    this.watches = WATCHED.map((kind) => new KindWatch(kind, client, sink, clock, () => this.review(), heardBefore));
  }

  start(): void {
    for (const watch of this.watches) void watch.run();
    void this.probe();
  }
  async stop(): Promise<void> {
    this.stopped.abort();
    if (this.probeTimer) clearTimeout(this.probeTimer);
    for (const watch of this.watches) watch.stop();
    await this.agent.destroy();
  }

  get state(): State {
    return { ...this.current, lastContactAt: this.contactAt };
  }
  log(wanted: LogWanted, limits: { lines: number; bytes: number; timeout: number }): Promise<string> {
    return this.client.log(wanted, limits);
  }
  writtenLines(...of: Parameters<ClusterClient['writtenLines']>): AsyncGenerator<string[], void> {
    return this.client.writtenLines(...of);
  }
  /** Whether it is not known how the cluster stands; or how some kinds do. */
  isBlind(ofKinds: readonly WatchedKind[]): boolean {
    const { state } = this.current;
    return (
      state === 'blind' ||
      state === 'connecting' ||
      this.watches.some((own) => ofKinds.includes(own.kind) && !isKnown(own))
    );
  }

  /** Asks for the version every few seconds: tells a cluster that is silent from one where nothing changes. */
  private async probe(): Promise<void> {
    const began = performance.now();
    try {
      await this.client.version(PROBE_TIMEOUT);
      this.answeredIn.push(performance.now() - began);
      if (this.answeredIn.length > PROBES_KEPT) this.answeredIn.shift();
      this.contactAt = this.clock.now();
      const wasBroken = this.probeFailure !== null;
      this.probeFailure = null;
      if (wasBroken) for (const watch of this.watches) if (watch.status.state === 'failing') watch.hurry();
    } catch (error) {
      this.probeFailure = error instanceof ApiRefusal ? error.message : failureInWords(error);
    }
    if (this.stopped.signal.aborted) return;
    this.review();
    this.probeTimer = setTimeout(() => void this.probe(), PROBE_EVERY);
  }

  private review(): void {
    const watching = this.watches.filter(isWhole).length;
    const broken = this.watches.find(isBroken)?.status;
    let next: Pick<State, 'state' | 'reason' | 'nextStep'>;
    if (this.probeFailure !== null || (watching === 0 && broken)) {
      next = {
        state: 'blind',
        reason: this.probeFailure ?? broken?.reason ?? null,
        nextStep: 'It is tried again every few seconds. Test the connection here once the cause is mended.',
      };
    } else if (broken) {
      const kinds = this.watches.filter(isBroken).map(({ kind }) => `${kind}s`);
      next = {
        state: 'partly reading',
        reason: `Not read: ${kinds.join(', ')}. ${broken.reason ?? ''}`,
        nextStep: 'Grant the token list and watch on them: Sources, Connect, has the account’s manifest.',
      };
    } else if (watching === this.watches.length) next = { state: 'reading', reason: null, nextStep: null };
    else next = { state: 'connecting', reason: null, nextStep: null };
    const same = next.state === this.current.state && next.reason === this.current.reason;
    if (same) return;
    const since =
      next.state === this.current.state
        ? this.current.since
        : next.state === 'blind'
          ? (this.contactAt ?? this.clock.now())
          : this.clock.now();
    this.current = { ...next, since, lastContactAt: this.contactAt };
    this.changed();
  }
}

type Watch = Pick<KindWatch, 'kind' | 'status'>;
/** Left out on purpose: the account was not granted what it need not have. */
const isLeftOut = ({ kind, status }: Watch): boolean => status.state === 'not allowed' && OPTIONAL_KINDS.has(kind);
const isKnown = ({ status: { state } }: Watch): boolean => state === 'watching' || state === 'not served';
const isWhole = (watch: Watch): boolean => isKnown(watch) || isLeftOut(watch);
const isBroken = (watch: Watch): boolean =>
  (watch.status.state === 'failing' || watch.status.state === 'not allowed') && !isLeftOut(watch);
