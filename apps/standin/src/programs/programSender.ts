import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { RESOURCE } from '../wire-names.ts';
import type { ApiObject } from '../world/objects.ts';
import type { World } from '../world/world.ts';
import { TELLING, type WrittenLine, writtenBy } from './podLines.ts';
import { spansBetween, type ToldSpan } from './podSpans.ts';

const EVERY = 2000;
/** What is sent at once: of so long a time. */
const AT_ONCE = 60_000;
const RECENT = 55 * 60_000;
const PAST = 2 * 3_600_000;
/** What was told is known for so long after it was. */
const REMEMBERED = 20 * 60_000;

/** Pushes what pods write and do by the open telemetry protocol: the last hour in its order, then the time before that up to two hours ago, newest first. What is not taken is sent again. */
class ProgramSender {
  private sentUntil: number;
  /** What came before this is sent when there is time for it. */
  private pastUntil: number;
  private readonly pastFrom: number;
  private timer: NodeJS.Timeout | null = null;
  private ended = false;
  /** Batches that were taken, and lines in them. */
  batches = 0;
  lines = 0;
  spans = 0;
  /** What was taken lately, as it was told: pods come and go, and the world does not tell the past anew. */
  readonly toldSpans: { readonly at: number; readonly spans: readonly ToldSpan[] }[] = [];
  problem: string | null = null;

  constructor(
    private readonly world: World,
    private readonly address: string,
    private readonly token: string,
    /** Where it keeps how far it came, so that nothing is told twice after a restart. */
    private readonly file: string,
  ) {
    const now = Date.now();
    const known = existsSync(file) ? Number(readFileSync(file, 'utf8')) || 0 : 0;
    this.sentUntil = Math.max(now - RECENT, known);
    this.pastUntil = known > 0 ? 0 : this.sentUntil;
    this.pastFrom = now - PAST;
    this.later(0);
  }
  end(): void {
    this.ended = true;
    if (this.timer) clearTimeout(this.timer);
  }

  private later(wait: number): void {
    if (this.ended) return;
    this.timer = setTimeout(() => void this.send(), wait);
  }
  private async send(): Promise<void> {
    const to = Math.min(this.sentUntil + AT_ONCE, Date.now() - 300);
    try {
      if (to > this.sentUntil) {
        await this.push(this.sentUntil, to);
        this.sentUntil = to;
        writeFileSync(this.file, String(to));
      }
      const from = Math.max(this.pastFrom, this.pastUntil - AT_ONCE);
      if (from < this.pastUntil) {
        await this.push(from, this.pastUntil);
        this.pastUntil = from;
      }
      this.problem = null;
    } catch (error) {
      this.problem = error instanceof Error ? error.message : String(error);
    }
    const behind = Date.now() - this.sentUntil > AT_ONCE || this.pastUntil > this.pastFrom;
    this.later(this.problem === null && behind ? 50 : EVERY);
  }
  private async push(from: number, to: number): Promise<void> {
    const told = toldBetween(this.world, from, to);
    const lines = told.map(({ resource, lines: own }) => ({
      resource: { attributes: attributes(resource) },
      scopeLogs: [
        {
          logRecords: own.map(({ at, text, severity, traceId }) => ({
            timeUnixNano: `${at}000000`,
            severityNumber: severity,
            body: { stringValue: text },
            traceId,
          })),
        },
      ],
    }));
    if (lines.length > 0) await this.post('logs', { resourceLogs: lines });
    const spans = spansBetween(this.world, from, to);
    const byPod = new Map<ApiObject, ToldSpan[]>();
    for (const span of spans) byPod.set(span.pod, [...(byPod.get(span.pod) ?? []), span]);
    const resources = [...byPod].map(([pod, own]) => ({
      resource: { attributes: attributes(resourceOf(pod)) },
      scopeSpans: [{ spans: own.map(wireSpan) }],
    }));
    if (resources.length > 0) await this.post('traces', { resourceSpans: resources });
    this.batches++;
    this.lines += told.reduce((sum, { lines: own }) => sum + own.length, 0);
    this.spans += spans.length;
    this.toldSpans.push({ at: Date.now(), spans });
    while ((this.toldSpans[0]?.at ?? Number.POSITIVE_INFINITY) < Date.now() - REMEMBERED) this.toldSpans.shift();
  }
  private async post(what: 'logs' | 'traces', body: object): Promise<void> {
    const response = await fetch(`${this.address}/v1/${what}`, {
      method: 'POST',
      headers: { authorization: `Bearer ${this.token}`, 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
    const text = await response.text();
    if (!response.ok) throw new Error(`${response.status}: ${text.slice(0, 200)}`);
  }
}

const nanos = (at: number): string => `${Math.round(at * 1000)}000`;
const wireSpan = ({ traceId, spanId, parentId, name, kind, at, took, failed, attributes: own }: ToldSpan) => ({
  traceId,
  spanId,
  parentSpanId: parentId,
  name,
  kind,
  startTimeUnixNano: nanos(at),
  endTimeUnixNano: nanos(at + took),
  attributes: attributes(own),
  ...(failed !== null && { status: { code: 2, message: failed } }),
});

/** Who is told what the pods of a cluster write; nobody at first. */
export class Telling {
  private sender: ProgramSender | null = null;
  constructor(
    private readonly world: World,
    private readonly file: string,
  ) {}

  begin(address: string, token: string): void {
    this.end();
    this.sender = new ProgramSender(this.world, address, token, this.file);
  }
  end(): void {
    this.sender?.end();
    this.sender = null;
  }
  /** Spans that began in a stretch of time, as they were told lately. */
  spansTold(from: number, to: number): ToldSpan[] {
    return (this.sender?.toldSpans ?? []).flatMap(({ spans }) => spans).filter(({ at }) => at >= from && at < to);
  }
  get state(): {
    readonly batches: number;
    readonly lines: number;
    readonly spans: number;
    readonly problem: string | null;
  } | null {
    return (
      this.sender && {
        batches: this.sender.batches,
        lines: this.sender.lines,
        spans: this.sender.spans,
        problem: this.sender.problem,
      }
    );
  }
}
const attributes = (of: Record<string, string>) =>
  Object.entries(of).map(([key, stringValue]) => ({ key, value: { stringValue } }));

export interface Told {
  readonly workload: string;
  readonly resource: Record<string, string>;
  readonly lines: readonly WrittenLine[];
}
/** What all pods that tell anything wrote: by pod. */
export function toldBetween(world: World, from: number, to: number): Told[] {
  return world.store.list('pods').flatMap((pod): Told[] => {
    const { namespace = '', name, labels } = pod.metadata;
    if (!TELLING.includes(namespace)) return [];
    const lines = writtenBy(world, pod, from, to);
    return lines.length === 0
      ? []
      : [{ workload: `${namespace}/${labels?.['app'] ?? name}`, resource: resourceOf(pod), lines }];
  });
}
function resourceOf({ metadata: { namespace = '', name, uid, labels } }: ApiObject): Record<string, string> {
  const app = labels?.['app'] ?? name;
  return {
    [RESOURCE.namespace]: namespace,
    [RESOURCE.pod]: name,
    [RESOURCE.podUid]: uid,
    [RESOURCE.container]: app,
    [RESOURCE.service]: app,
  };
}
