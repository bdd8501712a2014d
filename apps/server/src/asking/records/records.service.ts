import { Injectable } from '@nestjs/common';
import { type LineAnswer, type LinesAnswer, type ObjectPath, placeOf, type WindowQuery } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import type { Origin, Stream } from '@zetopsis/core/origins';
import { DAY } from '@zetopsis/core/units';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { type FoundLine, LineReader } from '../../keeping/records/lineReader.ts';

const SHOWN = 100;

/** What was told about an object, as far as somebody may see it. */
@Injectable()
export class RecordsService {
  constructor(
    private readonly reader: LineReader,
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

/** Lines of a node's services, and of the machines outside, are for who sees all of it. */
const maySee = (reach: Reach, { cluster, namespace }: Stream): boolean =>
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
