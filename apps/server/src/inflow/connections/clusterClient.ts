import { API_KINDS, apiPath } from '@zetopsis/contract';
import { type Agent, request } from 'undici';
import { z } from 'zod';
import type { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { discardBody } from '../../ground/platform/discardBody.ts';
import { statusInWords } from '../../ground/platform/failureWords.ts';
import { LineSplitter } from './lineSplitter.ts';
import { METADATA_LIST, METADATA_ONE } from './wire-names.ts';

const MAX_LIST_BYTES = 256 * 1024 * 1024;
const MAX_WATCH_LINE = 16 * 1024 * 1024;
const PAGE_SIZE = 500;
const WATCH_SECONDS = 280;
/** A stream that goes on longer than it was asked to is opened anew: it may have been dead for long. */
const LONGEST_WATCH = (WATCH_SECONDS + 60) * 1000;
/** Of one kind. Guards against a server that always answers that there is more. */
const MOST_OBJECTS = 500_000;
const MOST_EMPTY_PAGES = 20;
const LONGEST_LIST = 10 * 60_000;
const LONGEST_REFUSAL = 5000;
/** What is longer is cut, as any line that is kept is. */
const LONGEST_LOG_LINE = 64 * 1024;

/** The cluster answered, but not with what was asked for. */
export class ApiRefusal extends Error {
  constructor(
    readonly status: number,
    text: string,
  ) {
    super(text);
  }
}

export type WatchedKind = keyof typeof API_KINDS;
export const WATCHED = Object.keys(API_KINDS) as readonly WatchedKind[]; // its own keys
/** Kinds of which only names and versions are asked for. */
const METADATA_ONLY: ReadonlySet<WatchedKind> = new Set(['secret']);

/** As the orchestrator allows them (RFC 1123): never a path, nor a part of one. */
const OBJECT_NAME = /^[a-z0-9](?:[a-z0-9.-]{0,251}[a-z0-9])?$/;

const Version = z.object({ gitVersion: z.string().max(100).default('unknown') });
const List = z.object({
  metadata: z.object({ resourceVersion: z.string(), continue: z.string().optional() }),
  items: z.array(z.unknown()).nullable(),
});
const WatchLine = z.object({
  type: z.enum(['ADDED', 'MODIFIED', 'DELETED', 'BOOKMARK', 'ERROR']),
  object: z.record(z.string(), z.unknown()),
});
const Versioned = z.object({ metadata: z.object({ resourceVersion: z.string() }) });
const Failure = z.object({ code: z.number().optional(), message: z.string().max(2000).optional() });

export interface LogWanted {
  readonly namespace: string;
  readonly pod: string;
  readonly container: string;
  readonly previous: boolean;
}
export type WatchNews =
  | { readonly is: 'changed' | 'deleted'; readonly object: unknown; readonly version: string }
  | { readonly is: 'bookmark'; readonly version: string };

/** Speaks with one cluster's API. Reads only. */
export class ClusterClient {
  constructor(
    private readonly address: string,
    private readonly token: string,
    private readonly agent: Agent,
    private readonly guard: AddressGuard,
  ) {}

  async version(timeout: number): Promise<string> {
    const body = await this.json('/version', timeout);
    return Version.parse(body).gitVersion;
  }

  /** One object of a kind, or none: proves that the kind may be read. Answers how many there are. */
  async peek(kind: WatchedKind, timeout: number): Promise<{ count: number; first: unknown }> {
    const body = await this.json(`${apiPath(API_KINDS[kind])}?limit=1`, timeout, acceptFor(kind, METADATA_LIST));
    const list = List.extend({
      metadata: List.shape.metadata.extend({ remainingItemCount: z.number().optional() }),
    }).parse(body);
    const items = list.items ?? [];
    return { count: items.length + (list.metadata.remainingItemCount ?? 0), first: items[0] };
  }

  async list(kind: WatchedKind, timeout: number): Promise<{ objects: unknown[]; version: string }> {
    const objects: unknown[] = [];
    const until = performance.now() + LONGEST_LIST;
    let token: string | undefined;
    let empty = 0;
    for (;;) {
      if (objects.length > MOST_OBJECTS)
        throw new ApiRefusal(0, `The cluster lists more than ${MOST_OBJECTS} objects of this kind: they are not read.`);
      if (empty > MOST_EMPTY_PAGES || performance.now() > until)
        throw new ApiRefusal(0, 'The cluster’s list of this kind does not end. It is asked for again in a while.');
      const query = new URLSearchParams({ limit: String(PAGE_SIZE), ...(token ? { continue: token } : {}) });
      const page = List.parse(
        await this.json(`${apiPath(API_KINDS[kind])}?${query}`, timeout, acceptFor(kind, METADATA_LIST)),
      );
      for (const item of page.items ?? []) objects.push(item);
      if ((page.items ?? []).length === 0) empty++;
      token = page.metadata.continue;
      if (!token) return { objects, version: page.metadata.resourceVersion };
    }
  }

  /** Follows changes after `version` until the server ends the stream (normal) or it breaks (throws). */
  async watch({
    kind,
    version,
    signal,
    opened,
    news,
  }: {
    readonly kind: WatchedKind;
    readonly version: string;
    readonly signal: AbortSignal;
    readonly opened: () => void;
    readonly news: (item: WatchNews) => void;
  }): Promise<void> {
    const query = new URLSearchParams({
      watch: 'true',
      allowWatchBookmarks: 'true',
      resourceVersion: version,
      timeoutSeconds: String(WATCH_SECONDS),
    });
    const ends = AbortSignal.any([signal, AbortSignal.timeout(LONGEST_WATCH)]);
    const response = await this.open(`${apiPath(API_KINDS[kind])}?${query}`, ends, acceptFor(kind, METADATA_ONE));
    opened();
    const lines = new LineSplitter(MAX_WATCH_LINE, () => {
      throw new ApiRefusal(0, 'One object of the stream is larger than Zetopsis reads.');
    });
    for await (const piece of response) {
      for (const line of lines.push(piece as Buffer)) this.readLine(line, news); // undici yields buffers
    }
    if (lines.unfinished)
      throw new ApiRefusal(0, 'The stream of changes broke in the middle of an object. It is opened again.');
  }

  private readLine(line: string, news: (item: WatchNews) => void): void {
    const { type, object } = WatchLine.parse(JSON.parse(line));
    if (type === 'ERROR') {
      const failure = Failure.parse(object);
      throw new ApiRefusal(failure.code ?? 0, failure.message ?? 'The cluster ended the stream of changes.');
    }
    const { resourceVersion } = Versioned.parse(object).metadata;
    if (type === 'BOOKMARK') news({ is: 'bookmark', version: resourceVersion });
    else news({ is: type === 'DELETED' ? 'deleted' : 'changed', object, version: resourceVersion });
  }

  /** The last lines that a container wrote, or its instance before that. */
  async log(
    { namespace, pod, container, previous }: LogWanted,
    { lines, bytes, timeout }: { lines: number; bytes: number; timeout: number },
  ): Promise<string> {
    const query = { tailLines: String(lines), limitBytes: String(bytes) };
    const path = logPath({ namespace, pod, container, previous }, query);
    const body = await this.open(path, AbortSignal.timeout(timeout), 'text/plain, */*');
    return (await readAll(body, 4 * bytes)).toString('utf8');
  }

  /**
   * What a container writes, with the time of each line, from a moment on: up to now, or, where it is followed, until the container or the
   * server ends it. Whoever takes the lines is waited for.
   */
  async *writtenLines(
    wanted: LogWanted,
    {
      since,
      follow,
      signal,
      opened,
    }: {
      readonly since: Date;
      readonly follow: boolean;
      readonly signal: AbortSignal;
      readonly opened: () => void;
    },
  ): AsyncGenerator<string[], void> {
    const query = {
      timestamps: 'true',
      sinceTime: since.toISOString().replace(/\.\d+Z$/, 'Z'),
      ...(follow && { follow: 'true' }),
    };
    const body = await this.open(logPath(wanted, query), signal, 'text/plain, */*');
    opened();
    const lines = new LineSplitter(LONGEST_LOG_LINE, () => undefined);
    for await (const piece of body) {
      const whole = [...lines.push(piece as Buffer)]; // undici yields buffers
      if (whole.length > 0) yield whole;
    }
  }

  private async open(path: string, signal: AbortSignal, accept: string) {
    const url = new URL(`${this.address.replace(/\/+$/, '')}${path}`);
    this.guard.checkUrl(url);
    const { statusCode, body } = await request(url, {
      dispatcher: this.agent,
      signal,
      headers: { authorization: `Bearer ${this.token}`, accept, 'user-agent': 'zetopsis' },
    });
    if (statusCode === 200) return body;
    const hurry = setTimeout(() => discardBody(body), LONGEST_REFUSAL);
    const text = (await readAll(body, 64 * 1024).catch(() => Buffer.alloc(0))).toString('utf8');
    clearTimeout(hurry);
    throw new ApiRefusal(statusCode, `${statusInWords(statusCode)}${said(text)}`);
  }

  private async json(path: string, timeout: number, accept = 'application/json'): Promise<unknown> {
    const body = await this.open(path, AbortSignal.timeout(timeout), accept);
    const text = (await readAll(body, MAX_LIST_BYTES)).toString('utf8');
    try {
      return JSON.parse(text);
    } catch {
      throw new ApiRefusal(0, 'The answer is not JSON: this address does not seem to be a cluster’s API. Check it.');
    }
  }
}

function logPath({ namespace, pod, container, previous }: LogWanted, more: Readonly<Record<string, string>>): string {
  for (const name of [namespace, pod, container])
    if (!OBJECT_NAME.test(name)) throw new ApiRefusal(404, `No container of a cluster can be called so.`);
  const query = new URLSearchParams({ container, ...more, ...(previous ? { previous: 'true' } : {}) });
  return `/api/v1/namespaces/${encodeURIComponent(namespace)}/pods/${encodeURIComponent(pod)}/log?${query}`;
}

/** A server that does not know the short form answers 406 rather than the whole object. */
const acceptFor = (kind: WatchedKind, short: string): string => (METADATA_ONLY.has(kind) ? short : 'application/json');

function said(text: string): string {
  try {
    const { message } = Failure.parse(JSON.parse(text));
    return message ? ` The cluster says: “${message.slice(0, 300)}”.` : '';
  } catch {
    return '';
  }
}

async function readAll(body: AsyncIterable<unknown>, limit: number): Promise<Buffer> {
  const pieces: Buffer[] = [];
  let length = 0;
  for await (const piece of body) {
    pieces.push(piece as Buffer); // undici yields buffers
    length += (piece as Buffer).length;
    if (length > limit) throw new ApiRefusal(0, `The answer is larger than ${limit} bytes and is not read.`);
  }
  return Buffer.concat(pieces);
}
