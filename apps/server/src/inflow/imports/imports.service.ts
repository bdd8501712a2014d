import { createWriteStream } from 'node:fs';
import { mkdir, open, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { type ImportAnswer, type ImportQuery, type ImportWhat, StateLine } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { DEFAULT_PAGE_LIMITS, type PageLimits } from '@zetopsis/core/exposition';
import { INVENTORY_KINDS, type InventoryKind, type InventoryObject, readObject } from '@zetopsis/core/inventory';
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
import { ImportStore } from './import.store.ts';

const MEBIBYTE = 1024 * 1024;
const FILE_BYTES = 256 * MEBIBYTE;
const LINE_BYTES = MEBIBYTE;
const STATES_AT_ONCE = 500;
const PART_TRIES = 3;
const LIMITS: PageLimits = { ...DEFAULT_PAGE_LIMITS, pageBytes: FILE_BYTES, samples: 4_000_000 };

/** A piece of an import that is done in one go: a page of timed samples of one endpoint, fetched when its turn comes. */
export interface Part {
  readonly endpointId: number;
  readonly page: () => Promise<Uint8Array>;
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
    await this.store.interrupted(this.clock.now());
    // what an end left behind in the middle of an import
    await rm(this.folder, { recursive: true, force: true });
  }
  private get folder(): string {
    return join(this.settings.config.dataDir, 'imports');
  }
  async onApplicationShutdown(): Promise<void> {
    this.stopping = true;
    await this.inOrder(async () => undefined);
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
    const work = async (run: Run) => {
      if (plan && what === 'samples') await this.part(run, { endpointId: plan.id, page: () => readFile(file) });
      else await this.states(run, connectionId, file);
    };
    const removed = () => rm(file, { force: true });
    try {
      return (await this.begin({ cluster, about, what, by, parts: 1 }, work, removed)).answer;
    } catch (error) {
      await removed();
      throw error;
    }
  }
  /** The past of endpoints, page by page; `done` is told once all of it is over. */
  async takeParts(
    of: { cluster: string; about: string; by: string },
    parts: readonly Part[],
  ): Promise<{ answer: ImportAnswer; done: Promise<void> }> {
    return this.begin({ ...of, what: 'samples', parts: parts.length }, async (run) => {
      for (const part of parts) {
        if (run.state === 'cancelled' || this.stopping) return;
        await this.tried(run, part);
        await part.done?.();
        // what comes in now goes first
        await new Promise((next) => setTimeout(next, 50));
      }
    });
  }

  private async begin(
    of: { cluster: string; about: string; what: ImportWhat; by: string; parts: number },
    work: (run: Run) => Promise<void>,
    /** Done at the end, however it ends, and whether it began at all. */
    atTheEnd: () => Promise<void> = async () => undefined,
  ): Promise<{ answer: ImportAnswer; done: Promise<void> }> {
    const startedAt = this.clock.now();
    const run: Run = {
      id: await this.store.begin(of, startedAt),
      ...of,
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
    this.runs.set(run.id, run);
    const done = this.inOrder(() => this.run(run, work)).finally(() =>
      atTheEnd().catch((error: unknown) => this.log.failure('importNotRemoved', error, { import: run.id })),
    );
    this.live.touch('sources');
    return { answer: { ...run }, done };
  }
  private async run(run: Run, work: (run: Run) => Promise<void>): Promise<void> {
    try {
      if (run.state === 'waiting' && !this.stopping) {
        run.state = 'running';
        await work(run);
      }
      if (run.state === 'running') run.state = this.stopping && run.partsDone < run.parts ? 'interrupted' : 'done';
    } catch (error) {
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
  private async part(run: Run, { endpointId, page }: Part): Promise<void> {
    const before = this.newest.unpacked.get(endpointId)?.first ?? this.clock.now();
    const parsed = await this.workers.do<'parse'>({
      kind: 'parse',
      bytes: new Uint8Array(await page()),
      form: 'openmetrics',
      limits: LIMITS,
      before,
    });
    if (parsed.refused) throw new Refusal('invalid', `The page was refused: ${parsed.refused.text}.`);
    const { ids } = await this.numbers.numbersFor(endpointId, parsed.series, this.clock.now());
    const merged = await this.workers.do<'merge'>({
      kind: 'merge',
      epoch: this.lease.epoch,
      endpoint: endpointId,
      ids,
    });
    const kept = merged.added + merged.same + merged.other;
    run.added += merged.added;
    run.same += merged.same;
    run.other += merged.other;
    run.leftOut += parsed.untimed + parsed.leftOut + (parsed.samples - kept) + parsed.problemCount;
    const [problem] = parsed.problems;
    if (problem)
      run.problem = `Line ${problem.line}, column ${problem.column}: ${problem.text}${parsed.problemCount > 1 ? `; and ${parsed.problemCount - 1} more` : ''}.`;
    run.partsDone++;
    this.live.touch('sources');
    await this.store.note(run);
  }

  private async keep(body: Readable): Promise<string> {
    await mkdir(this.folder, { recursive: true, mode: 0o700 });
    const file = join(this.folder, `${Date.now()}-${Math.random().toString(36).slice(2)}`);
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
      return file;
    } catch (error) {
      await rm(file, { force: true });
      throw error;
    }
  }

  private async states(run: Run, connectionId: string, file: string): Promise<void> {
    const handle = await open(file);
    let line = 0;
    let batch: { object: InventoryObject; from: number; to: number }[] = [];
    const write = async () => {
      const added = batch.length === 0 ? 0 : await this.store.addStates(connectionId, batch);
      run.added += added;
      run.same += batch.length - added;
      batch = [];
      this.live.touch('sources');
    };
    try {
      for await (const text of handle.readLines()) {
        if (run.state === 'cancelled' || this.stopping) return;
        line++;
        if (text.trim() === '') continue;
        const state = this.stateOf(text);
        if (typeof state === 'string') {
          run.leftOut++;
          run.problem ??= `Line ${line}: ${state}.`;
        } else {
          // within one statement two states that overlap would not see each other
          if (batch.some((one) => one.object.uid === state.object.uid && one.from < state.to && one.to > state.from))
            await write();
          batch.push(state);
        }
        if (batch.length === STATES_AT_ONCE) await write();
      }
      await write();
      run.partsDone = 1;
    } finally {
      await handle.close();
    }
  }
  /** In words what is wrong with it, when something is. */
  private stateOf(text: string): { object: InventoryObject; from: number; to: number } | string {
    if (text.length > LINE_BYTES) return 'it is longer than a state of an object may be';
    let foreign: unknown;
    try {
      foreign = JSON.parse(text);
    } catch {
      return 'it is not JSON';
    }
    const parsed = StateLine.safeParse(foreign);
    if (!parsed.success) {
      const [issue] = parsed.error.issues;
      return `${issue?.path.join('.') || 'it'}: ${issue?.message ?? 'is not right'}`;
    }
    const { kind, object: wire } = parsed.data;
    const from = Date.parse(parsed.data.from);
    const to = Date.parse(parsed.data.to);
    if (!(INVENTORY_KINDS as readonly string[]).includes(kind)) return `“${kind.slice(0, 40)}” is no kind of object`;
    if (!(from < to)) return 'it ends before it begins';
    if (to > this.clock.now()) return 'it ends in the future';
    const object = readObject(kind as InventoryKind, wire, (value) => this.secrets.fingerprint(value));
    return object ? { object, from, to } : 'the object has no name or no uid';
  }
}
