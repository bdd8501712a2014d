import { Injectable } from '@nestjs/common';
import {
  type LineAnswer,
  type LinesAnswer,
  type ObjectPath,
  placeOf,
  type TraceAnswer,
  type TraceLine,
  type TracesAnswer,
  type WindowQuery,
} from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { type Origin, type Stream, streamOf } from '@zetopsis/core/origins';
import { DAY } from '@zetopsis/core/units';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { FollowingService } from '../../inflow/following/following.service.ts';
import { LineQuotas } from '../../inflow/push/lineQuotas.service.ts';
import { type FoundLine, LineReader } from '../../keeping/records/lineReader.ts';
import { type FoundTrace, TraceReader } from '../../keeping/records/traceReader.ts';

const SHOWN = 100;
const TRACES = 8;
const GAPS = 20;
const STEPS = 1000;

/** What was told about an object, as far as somebody may see it. */
@Injectable()
export class RecordsService {
  constructor(
    private readonly reader: LineReader,
    private readonly traceReader: TraceReader,
    private readonly quotas: LineQuotas,
    private readonly following: FollowingService,
    private readonly clock: Clock,
  ) {}

  async lines(reach: Reach, path: ObjectPath, window: WindowQuery): Promise<LinesAnswer> {
    const { cluster, namespace } = placeOf(path);
    if (!mayAsk(reach, path, cluster, namespace))
      throw new Refusal('notFound', 'There is no such object, or none that you may see.');
    const now = this.clock.now();
    const having = havingOf(path);
    const streams = (await this.reader.streams()).filter((stream) => isOf(path, stream) && maySee(reach, stream));
    const ids = streams.map(({ id }) => id);
    const { lines, more } = await this.reader.newest({
      streams: ids,
      from: window.from,
      to: window.to ?? now + DAY,
      having,
      most: SHOWN,
    });
    const day = await this.reader.census({ streams: ids, since: now - DAY, having });
    return {
      lines: await Promise.all(lines.map((line) => this.lineAnswer(line))),
      more,
      day,
      known: day.lines > 0 || lines.length > 0,
      dropped: this.droppedOf(cluster, namespace),
      gaps: await this.gapsOf(path, window),
    };
  }
  private async gapsOf(path: ObjectPath, { from, to }: WindowQuery): Promise<LinesAnswer['gaps']> {
    const { cluster, namespace } = placeOf(path);
    if (cluster === null || namespace === null) return [];
    const workload = 'workload' in path ? (path.workload?.name ?? null) : null;
    const all = await this.following.gapsBetween(
      { cluster, namespace, workload },
      { from, to: to ?? this.clock.now() },
      GAPS,
    );
    const pod = 'pod' in path ? path.pod : null;
    return all.filter((gap) => pod === null || gap.pod === pod);
  }
  /** By the limit of whom the namespace belongs to. */
  private droppedOf(cluster: string | null, namespace: string | null): LinesAnswer['dropped'] {
    const quota = this.quotas.of({ cluster, namespace }, null);
    const lines = quota === null ? 0 : this.quotas.droppedToday(quota.team);
    return quota === null || quota.most === null || lines === 0 ? null : { lines, team: quota.name, most: quota.most };
  }
  async traces(reach: Reach, path: ObjectPath, window: WindowQuery): Promise<TracesAnswer> {
    const { cluster, namespace } = placeOf(path);
    if (!mayAsk(reach, path, cluster, namespace))
      throw new Refusal('notFound', 'There is no such object, or none that you may see.');
    const streams = (await this.reader.streams()).filter((stream) => isOf(path, stream) && maySee(reach, stream));
    const [slowest, failed] = [new Best(TRACES, bySlowness), new Best(TRACES, byNewness)];
    let traces = 0;
    let failures = 0;
    let sampled = false;
    const having = Object.entries(havingOf(path));
    const whole =
      streams.length === 0 ||
      (await this.traceReader.each(
        {
          streams: streams.map(({ id }) => id),
          from: window.from,
          to: window.to ?? this.clock.now() + DAY,
          isOf: (origin) =>
            maySee(reach, origin) &&
            isOf(path, streamOf(origin)) &&
            having.every(([name, value]) => origin[name as keyof Origin] === value), // names of its own
        },
        (found) => {
          traces += found.weight;
          sampled ||= found.weight > 1;
          slowest.offer(found);
          if (!found.failed) return;
          failures += found.weight;
          failed.offer(found);
        },
      ));
    return {
      slowest: slowest.all.map(traceLine),
      failed: failed.all.map(traceLine),
      traces,
      failures,
      sampled,
      whole,
    };
  }
  /** Steps where somebody may not look are counted only. */
  async trace(reach: Reach, id: string, window: WindowQuery): Promise<TraceAnswer> {
    const { spans, open } = await this.traceReader.spansOf(id, {
      from: window.from,
      to: window.to ?? this.clock.now() + DAY,
    });
    const seen = spans.filter(({ from }) => maySee(reach, from));
    if (seen.length === 0)
      throw new Refusal(
        'notFound',
        'This trace is not kept, or none of it may be seen. It is looked for in the window.',
      );
    const known = new Set(spans.map(({ spanId }) => spanId));
    return {
      traceId: id,
      steps: seen.slice(0, STEPS).map(({ from, fields, ...span }) => ({
        spanId: span.spanId,
        parentId: span.parentId,
        name: span.name,
        kind: span.kind,
        at: span.at,
        took: span.took,
        failed: span.failed,
        message: span.message,
        fields: fields.map(([name, value]): [string, string] => [name, value]),
        service: from.service ?? from.workload?.name ?? from.host,
        pod: from.pod,
        node: from.cluster !== null && reach.whole(from.cluster) ? from.node : null,
      })),
      hidden: spans.length - seen.length,
      left: Math.max(0, seen.length - STEPS),
      orphans: spans.filter(({ parentId }) => parentId !== '' && !known.has(parentId)).length,
      open,
    };
  }
  private async lineAnswer({ stream, wording, origin, ...line }: FoundLine): Promise<LineAnswer> {
    const text = wording === 0 ? null : await this.reader.wordingText(stream, wording);
    return {
      at: line.at,
      level: line.level,
      text: line.text,
      fields: line.fields.map(([name, value]) => [name, value]),
      traceId: line.traceId,
      pod: origin.pod,
      container: origin.container,
      wording: text === null ? null : { number: wording, text },
    };
  }
}

/** The first few by an order, of however many are offered. */
class Best {
  readonly all: FoundTrace[] = [];
  constructor(
    private readonly most: number,
    private readonly order: (a: FoundTrace, b: FoundTrace) => number,
  ) {}
  offer(found: FoundTrace): void {
    const last = this.all.at(-1);
    if (this.all.length >= this.most && last && this.order(last, found) <= 0) return;
    this.all.push(found);
    this.all.sort(this.order);
    this.all.length = Math.min(this.all.length, this.most);
  }
}
const bySlowness = (a: FoundTrace, b: FoundTrace): number => b.took - a.took;
const byNewness = (a: FoundTrace, b: FoundTrace): number => b.at - a.at;
const traceLine = ({ origin, ...found }: FoundTrace): TraceLine => ({
  ...found,
  pod: origin.pod,
  container: origin.container,
});

/** Lines of a node's services, and of the machines outside, are for who sees all of it. */
const maySee = (reach: Reach, { cluster, namespace }: Pick<Stream, 'cluster' | 'namespace'>): boolean =>
  cluster === null
    ? reach.mayEverywhere('read')
    : namespace === null
      ? reach.whole(cluster)
      : reach.reads(cluster, namespace);
const mayAsk = (reach: Reach, path: ObjectPath, cluster: string | null, namespace: string | null): boolean =>
  path.is === 'everything' ? false : reach.sees({ cluster, namespace });

/** Whether lines of an object may be in a stream. */
function isOf(path: ObjectPath, stream: Stream): boolean {
  if (path.is === 'everything') return false;
  if (path.is === 'host') return stream.cluster === null;
  if (stream.cluster !== path.cluster) return false;
  switch (path.is) {
    case 'cluster':
      return true;
    case 'node':
      return stream.kind === 'node' && stream.name === path.node;
    case 'namespace':
    case 'pod':
    case 'container':
      return stream.namespace === path.namespace;
    case 'workload':
      return (
        stream.namespace === path.namespace && stream.kind === path.workload.kind && stream.name === path.workload.name
      );
    case 'accessory':
      return (
        stream.namespace === path.namespace &&
        stream.kind === 'service' &&
        path.kind === 'service' &&
        stream.name === path.name
      );
    default:
      return false;
  }
}
/** What the origin of its lines has. */
function havingOf(path: ObjectPath): Partial<Origin> {
  if (path.is === 'pod') return { pod: path.pod };
  if (path.is === 'container') return { pod: path.pod, container: path.container };
  return path.is === 'host' ? { host: path.host } : {};
}
