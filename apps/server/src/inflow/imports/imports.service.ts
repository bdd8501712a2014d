import { createWriteStream } from 'node:fs';
import { mkdir, readdir, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { type ImportAnswer, type ImportQuery } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { DEFAULT_PAGE_LIMITS, type PageLimits } from '@zetopsis/core/exposition';
import type { EpochMs } from '@zetopsis/core/units';
import pLimit from 'p-limit';
import { AuditService } from '../../ground/audit/audit.service.ts';
import { demand } from '../../ground/guard/demand.ts';
import { LiveService } from '../../ground/live/live.service.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Secrets } from '../../ground/platform/secrets.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import { LeaseService } from '../../keeping/store/lease.service.ts';
import { NewestReadings } from '../../keeping/store/newestReadings.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { StoreWorkers } from '../../keeping/store/storeWorkers.service.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import { type ImportBegun, ImportStore } from './import.store.ts';
import { stateOf, takeStates } from './takeStates.ts';

const MEBIBYTE = 1024 * 1024;
const FILE_BYTES = 256 * MEBIBYTE;
const PART_TRIES = 3;
const LIMITS: PageLimits = { ...DEFAULT_PAGE_LIMITS, pageBytes: FILE_BYTES, samples: 4_000_000 };

/** A piece of an import that is done in one go: a page of timed samples of one endpoint, fetched when its turn comes. */
export interface Part {
  readonly endpointId: number;
  readonly page: () => Promise<Uint8Array>;
  /** Since when series that are told for the first time are there; else since now. */
  readonly since?: EpochMs;
  readonly done?: () => Promise<void>;
}
interface Run extends ImportAnswer {
  state: ImportAnswer['state'];
  partsDone: number;
  added: number;
  same: number;
  other: number;
  leftOut: number;
  problem: string | null;
  endedAt: number | null;
}

/** Brings in the past: one import after the other, part by part, so that what comes in now is not delayed. */
@Injectable()
export class ImportsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly runs = new Map<number, Run>();
  private readonly inOrder = pLimit(1);
  private stopping = false;
  private readonly listeners: ((run: Pick<ImportAnswer, 'cluster' | 'what' | 'about'>) => void)[] = [];

  constructor(
    private readonly store: ImportStore,
    private readonly connections: ConnectionsService,
    private readonly endpoints: EndpointsService,
    private readonly newest: NewestReadings,
    private readonly numbers: SeriesNumbers,
    private readonly workers: StoreWorkers,
    private readonly lease: LeaseService,
    private readonly audit: AuditService,
    private readonly secrets: Secrets,
    private readonly settings: Settings,
    private readonly live: LiveService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}
  async onApplicationBootstrap(): Promise<void> {
    const kept = new Set(await readdir(this.folder).catch((): string[] => []));
    for (const { file, endpoint, linesDone, ...run } of await this.store.unfinished()) {
      if (file === null || !kept.delete(file)) continue;
      await this.store.takenUp(run.id);
      const going: Run = { ...run, state: 'waiting', problem: null };
      void this.goOn({ run: going, work: this.fileWork(file, endpoint, linesDone), file });
    }
    await this.store.interrupted([...this.runs.keys()], this.clock.now());
    // what nobody waits for any more
    for (const file of kept) await rm(join(this.folder, file), { force: true });
  }
  private get folder(): string {
    return join(this.settings.config.dataDir, 'imports');
  }
  async onApplicationShutdown(): Promise<void> {
    this.stopping = true;
    await this.inOrder(async () => undefined);
  }

  /** Told of every import that was done. */
  onDone(listener: (run: Pick<ImportAnswer, 'cluster' | 'what' | 'about'>) => void): void {
    this.listeners.push(listener);
  }
  async list(reach: Reach): Promise<ImportAnswer[]> {
    return (await this.store.newest())
      .map((one) => this.runs.get(one.id) ?? one)
      .filter(({ cluster }) => reach.may('administer', cluster, null));
  }
  async cancel(reach: Reach, id: number): Promise<void> {
    const run = this.runs.get(id);
    if (!run || !reach.may('administer', run.cluster, null) || run.endedAt !== null)
      throw new Refusal('notFound', 'There is no such import under way (any more).');
    run.state = 'cancelled';
    this.live.touch('sources');
  }

  /** Takes the file in at once, and works on it when its turn comes. */
  async take({
    reach,
    by,
    importQuery: { cluster, node, what },
    body,
  }: {
    readonly reach: Reach;
    readonly by: string;
    readonly importQuery: ImportQuery;
    readonly body: Readable | null;
  }): Promise<ImportAnswer> {
    demand({ reach, level: 'administer', cluster, namespace: null });
    if (body === null)
      throw new Refusal('invalid', 'Send the file as it is, as text/plain: this is not a request in JSON.');
    const connectionId = this.connections.idOf(cluster);
    if (connectionId === undefined) throw new Refusal('notFound', `There is no cluster ${cluster} (any more).`);
    const plan = this.endpoints.plansOf(connectionId).find((one) => one.name === node);
    if (what === 'samples' && !plan)
      throw new Refusal('invalid', `Samples belong to an endpoint: ${cluster} has none on the node “${node ?? ''}”.`);
    const file = await this.keep(body);
    const about = what === 'samples' ? plan!.name : 'its objects'; // looked at above
    const endpoint = what === 'samples' ? plan!.id : null; // looked at above
    try {
      const run = await this.begin({ cluster, about, what, by, parts: 1, file, endpoint });
      void this.goOn({ run, work: this.fileWork(file, endpoint, 0), file });
      return { ...run };
    } catch (error) {
      await this.removed(file);
      throw error;
    }
  }
  /** Works through a kept file: samples of an endpoint, or states from a line on. */
  private fileWork(file: string, endpoint: number | null, linesDone: number): (run: Run) => Promise<void> {
    const path = join(this.folder, file);
    return async (run) => {
      if (endpoint !== null) return this.part(run, { endpointId: endpoint, page: () => readFile(path) });
      const connectionId = this.connections.idOf(run.cluster);
      if (connectionId === undefined) throw new Refusal('notFound', `There is no cluster ${run.cluster} (any more).`);
      const whole = await takeStates({
        path,
        linesDone,
        stops: () => run.state === 'cancelled' || this.stopping,
        stateOf: (text) => stateOf(text, this.clock.now(), (value) => this.secrets.fingerprint(value)),
        write: async (states, done) => {
          const added = states.length === 0 ? 0 : await this.store.addStates(connectionId, states);
          run.added += added;
          run.same += states.length - added;
          await this.store.note(run, done);
          this.live.touch('sources');
        },
        wrong: (line, why) => {
          run.leftOut++;
          run.problem ??= `Line ${line}: ${why}.`;
        },
      });
      if (whole) run.partsDone = 1;
    };
  }
  /** The past of endpoints, page by page; `done` is told once all of it is over. */
  async takeParts(
    of: { cluster: string; about: string; by: string },
    parts: readonly Part[],
  ): Promise<{ answer: ImportAnswer; done: Promise<void> }> {
    // what the end of a process broke off goes on as the same import
    const before = await this.store.brokenOff(of);
    const run: Run = before
      ? { ...before, state: 'waiting', parts: before.partsDone + parts.length, problem: null, endedAt: null }
      : await this.begin({ ...of, what: 'samples', parts: parts.length, file: null, endpoint: null });
    const work = async () => {
      for (const part of parts) {
        if (run.state === 'cancelled' || this.stopping) return;
        await this.tried(run, part);
        await part.done?.();
        // what comes in now goes first
        await new Promise((next) => setTimeout(next, 50));
      }
    };
    return { answer: { ...run }, done: this.goOn({ run, work, file: null }) };
  }

  private async begin(of: ImportBegun): Promise<Run> {
    const startedAt = this.clock.now();
    const { file: _, endpoint: __, ...told } = of;
    return {
      id: await this.store.begin(of, startedAt),
      ...told,
      state: 'waiting',
      partsDone: 0,
      added: 0,
      same: 0,
      other: 0,
      leftOut: 0,
      problem: null,
      startedAt,
      endedAt: null,
    };
  }
  /** When its turn comes. A file is kept while its import is not over: after a restart it goes on. */
  private goOn({
    run,
    work,
    file,
  }: {
    readonly run: Run;
    readonly work: (run: Run) => Promise<void>;
    readonly file: string | null;
  }): Promise<void> {
    this.runs.set(run.id, run);
    this.live.touch('sources');
    return this.inOrder(async () => {
      await this.run(run, work, file !== null);
      if (file !== null && run.endedAt !== null) await this.removed(file);
    });
  }
  private async removed(file: string): Promise<void> {
    await rm(join(this.folder, file), { force: true }).catch((error: unknown) =>
      this.log.failure('importNotRemoved', error, { file }),
    );
  }
  private async run(run: Run, work: (run: Run) => Promise<void>, goesOn: boolean): Promise<void> {
    try {
      if (run.state === 'waiting' && !this.stopping) {
        run.state = 'running';
        await work(run);
      }
      // the next process takes it up where it stands
      if (goesOn && this.stopping && run.state !== 'cancelled' && run.partsDone < run.parts) return;
      if (run.state === 'running') run.state = this.stopping && run.partsDone < run.parts ? 'interrupted' : 'done';
    } catch (error) {
      // what ends with this process breaks it off; the next one takes it up
      if (goesOn && this.stopping && !(error instanceof Refusal)) return;
      run.state = 'failed';
      run.problem =
        error instanceof Refusal
          ? error.message
          : `It broke off: ${error instanceof Error ? error.message : String(error)}. What had been taken is kept; import it again for the rest.`;
      if (!(error instanceof Refusal)) this.log.failure('importFailed', error, { import: run.id });
    }
    run.endedAt = this.clock.now();
    this.live.touch('sources');
    try {
      await this.store.note(run);
      await this.audit.noteOwn({
        action: `import: ${run.state}`,
        on: `${run.what} of ${run.cluster} › ${run.about}`,
        detail: `for ${run.by}: ${run.added} taken, ${run.same + run.other} known already, ${run.leftOut} left out`,
      });
    } catch (error) {
      this.log.failure('importNotNoted', error, { import: run.id });
    }
    this.runs.delete(run.id);
    if (run.state === 'done') for (const listener of this.listeners) listener(run);
  }

  /** Whoever gives the page may be away for a moment. */
  private async tried(run: Run, part: Part): Promise<void> {
    for (let tries = 1; ; tries++) {
      try {
        return await this.part(run, part);
      } catch (error) {
        if (tries === PART_TRIES || error instanceof Refusal || this.stopping) throw error;
        await new Promise((next) => setTimeout(next, tries * 1000));
      }
    }
  }

  /** One page of timed samples. What is of a time that is still to be packed is left out: it was read itself. */
  private async part(run: Run, { endpointId, page, since }: Part): Promise<void> {
    const before = this.newest.unpacked.get(endpointId)?.first ?? this.clock.now();
    const parsed = await this.workers.do<'parse'>({
      kind: 'parse',
      bytes: new Uint8Array(await page()),
      form: 'openmetrics',
      limits: LIMITS,
      before,
    });
    if (parsed.refused) throw new Refusal('invalid', `The page was refused: ${parsed.refused.text}.`);
    const { ids } = await this.numbers.numbersFor(endpointId, parsed.series, since ?? this.clock.now());
    const merged = await this.workers.do<'merge'>({
      kind: 'merge',
      epoch: this.lease.epoch,
      endpoint: endpointId,
      ids,
    });
    const kept = merged.added + merged.same + merged.other;
    run.added += merged.added;
    run.same += merged.same + parsed.doubled;
    run.other += merged.other;
    run.leftOut += parsed.untimed + parsed.leftOut + (parsed.samples - kept) + parsed.lost;
    const [problem] = parsed.problems;
    if (problem)
      run.problem = `Line ${problem.line}, column ${problem.column}: ${problem.text}${parsed.problemCount > 1 ? `; and ${parsed.problemCount - 1} more` : ''}.`;
    run.partsDone++;
    this.live.touch('sources');
    await this.store.note(run);
  }

  private async keep(body: Readable): Promise<string> {
    await mkdir(this.folder, { recursive: true, mode: 0o700 });
    const name = `${Date.now()}-${Math.random().toString(36).slice(2)}`;
    const file = join(this.folder, name);
    let bytes = 0;
    const measured = new Transform({
      transform(piece: Buffer, _encoding, next) {
        bytes += piece.length;
        next(
          bytes > FILE_BYTES
            ? new Refusal('tooLarge', `A file may have ${FILE_BYTES / MEBIBYTE} MiB at most: cut it.`)
            : null,
          piece,
        );
      },
    });
    try {
      await pipeline(body, measured, createWriteStream(file, { mode: 0o600 }));
      if (bytes === 0) throw new Refusal('invalid', 'The file is empty.');
      return name;
    } catch (error) {
      await rm(file, { force: true });
      throw error;
    }
  }
}
