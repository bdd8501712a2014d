import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { type FamilyOut, type SampleOut, writePage } from '@zetopsis/core/exposition';
import type { Origin } from '@zetopsis/core/origins';
import {
  isBrowsers,
  type OperationRequests,
  REQUEST_BOUNDS,
  REQUEST_SERIES,
  RequestCounts,
  type Span,
} from '@zetopsis/core/spans';
import { HOUR, SECOND } from '@zetopsis/core/units';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { PushService } from './push.service.ts';
import { IDENTITY_LABELS } from './wire-names.ts';

const EVERY = 15 * SECOND;
/** A sender that sent no span for so long is left out of the page: its series end. */
const SILENT_FOR = HOUR;
/** Senders of one key that are counted; what comes after is in no figure, and the traces tell of it still. */
const MOST_SENDERS = 2000;
const REQUESTS_SENDER = 'requests from spans';

interface Sender {
  readonly labels: Readonly<Record<string, string>>;
  readonly counts: RequestCounts;
  lastAt: number;
}

/**
 * Requests, failures and durations of every sender's operations, counted from spans when they come, whatever is kept of their traces:
 * a page of the key, read like any other, so that sheets, measures and rules have them.
 */
@Injectable()
export class SpanRequests implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly keys = new Map<string, Map<string, Sender>>();
  private readonly writing = new Repeated(() => this.write(), EVERY);

  constructor(
    private readonly push: PushService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}
  onApplicationBootstrap(): void {
    this.writing.begin(EVERY);
  }
  async onApplicationShutdown(): Promise<void> {
    await this.writing.stop();
  }

  count(key: string, origin: Origin, attributes: ReadonlyMap<string, string>, spans: readonly Span[]): void {
    const senders = this.keys.get(key) ?? new Map<string, Sender>();
    this.keys.set(key, senders);
    const labels = labelsOf(origin, isBrowsers(attributes));
    const name = JSON.stringify(labels);
    const known = senders.get(name);
    if (!known && senders.size >= MOST_SENDERS) return;
    const sender = known ?? { labels, counts: new RequestCounts(), lastAt: 0 };
    for (const span of spans) sender.counts.count(span);
    if (!known && sender.counts.all().length === 0) return;
    sender.lastAt = this.clock.now();
    senders.set(name, sender);
  }

  /** Once; also what happens every so often. */
  async write(): Promise<void> {
    const before = this.clock.now() - SILENT_FOR;
    for (const [key, senders] of this.keys) {
      if (!this.push.has(key)) {
        this.keys.delete(key);
        continue;
      }
      for (const [name, { lastAt }] of senders) if (lastAt < before) senders.delete(name);
      if (senders.size === 0) continue;
      try {
        await this.push.takePage({
          key,
          sender: REQUESTS_SENDER,
          bytes: Buffer.from(writePage(familiesOf([...senders.values()]))),
          form: 'openmetrics',
        });
      } catch (error) {
        // it counts on: what is not taken now is in the next page
        if (!(error instanceof Refusal)) this.log.failure('requestsNotKept', error, { key });
      }
    }
  }
}

function labelsOf({ namespace, pod, container, service, host }: Origin, browser: boolean): Record<string, string> {
  const own: Record<string, string | null> = {
    [IDENTITY_LABELS.namespace]: namespace,
    [IDENTITY_LABELS.pod]: pod,
    [IDENTITY_LABELS.container]: container,
    [IDENTITY_LABELS.service]: service,
    [IDENTITY_LABELS.host]: host,
    [REQUEST_SERIES.from]: browser ? REQUEST_SERIES.browser : null,
  };
  return Object.fromEntries(Object.entries(own).flatMap(([name, value]) => (value === null ? [] : [[name, value]])));
}

function familiesOf(senders: readonly Sender[]): FamilyOut[] {
  const samples = (of: (own: OperationRequests, labels: Readonly<Record<string, string>>) => SampleOut[]) =>
    senders.flatMap(({ labels, counts }) =>
      counts.all().flatMap((own) =>
        of(own, {
          ...labels,
          [REQUEST_SERIES.operation]: own.operation,
          ...(own.cold && { [REQUEST_SERIES.start]: REQUEST_SERIES.cold }),
        }),
      ),
    );
  return [
    {
      name: 'span_requests',
      type: 'counter',
      unit: '',
      help: 'Requests that came in, counted from their spans.',
      samples: samples(({ requests, failures }, labels) => [
        { labels: { ...labels, [REQUEST_SERIES.outcome]: 'ok' }, value: requests - failures },
        { labels: { ...labels, [REQUEST_SERIES.outcome]: REQUEST_SERIES.failed }, value: failures },
      ]),
    },
    {
      name: 'span_failures',
      type: 'counter',
      unit: '',
      help: 'Requests whose span failed.',
      samples: samples(({ failures }, labels) => [{ labels, value: failures }]),
    },
    {
      name: 'span_duration_seconds',
      type: 'histogram',
      unit: 'seconds',
      help: 'How long requests took, by their spans.',
      samples: samples(({ requests, seconds, buckets, examples }, labels) => {
        let below = 0;
        return [
          ...buckets.map((count, i): SampleOut => {
            below += count;
            const bound = REQUEST_BOUNDS[i];
            const example = examples[i];
            return {
              ending: '_bucket',
              labels: {
                ...labels,
                le: bound === undefined ? '+Inf' : Number.isInteger(bound) ? `${bound}.0` : `${bound}`,
              },
              value: below,
              ...(example && {
                exemplar: { labels: { trace_id: example.traceId }, value: example.seconds, at: example.at },
              }),
            };
          }),
          { ending: '_count', labels, value: requests },
          { ending: '_sum', labels, value: seconds },
        ];
      }),
    },
  ];
}
