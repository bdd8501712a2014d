import { Injectable } from '@nestjs/common';
import { askedPods } from '@zetopsis/answers/sheet';
import type { SeenUsage, Window } from '@zetopsis/answers/usage';
import type { ObjectPath, OperationsAnswer, WindowQuery } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { BOUND_LABEL, type OperationTold, operationsOf } from '@zetopsis/core/answered';
import { formatCount } from '@zetopsis/core/format';
import { tagOf } from '@zetopsis/core/inventory';
import { grownWithin } from '@zetopsis/core/samples';
import { REQUEST_SERIES } from '@zetopsis/core/spans';
import { MINUTE } from '@zetopsis/core/units';
import { Pieces } from '../../ground/platform/inPieces.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { OwnSeries } from './ownSeries.service.ts';
import { podsBy } from './podsBy.ts';
import { UsageService } from './usage.service.ts';

const METRICS = [REQUEST_SERIES.requests, REQUEST_SERIES.buckets];
/** So many series are read for one answer. */
const MOST_SERIES = 20_000;
/** Requests are told every 15 s, counted from nothing: what told nothing for so long before the window begins within it. */
const APART = 2 * MINUTE;

/** What the pods of an object answer, by operation, as their spans tell. */
@Injectable()
export class OperationsService {
  constructor(
    private readonly usage: UsageService,
    private readonly own: OwnSeries,
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
  ) {}

  async operations({
    reach,
    path,
    query,
    shift,
    target,
  }: {
    readonly reach: Reach;
    readonly path: ObjectPath;
    readonly query: WindowQuery;
    readonly shift: number | undefined;
    /** s. */
    readonly target: number;
  }): Promise<OperationsAnswer> {
    const window = this.usage.window(query.from, query.to);
    const usage = await this.usage.ofPath(reach, path, window);
    const against = this.usage.against(usage.window, shift);
    const told = operationsOf(await this.toldBy(usage, path, window), target);
    const other = against && (await this.usage.ofPath(reach, path, against));
    const was = other && against ? operationsOf(await this.toldBy(other, path, against), target).operations : null;
    return {
      window,
      target,
      all: told.all,
      operations: [...told.operations],
      pods: [...told.pods],
      versions: [...told.versions],
      uneven: told.uneven,
      was: was && [...was],
    };
  }

  private async toldBy(usage: SeenUsage, path: ObjectPath, window: Window): Promise<OperationTold[]> {
    const pods = askedPods(usage, path, window.to);
    const ids = [...this.own.ofPods(usage.connectionId, pods, METRICS)].flatMap(([metric, list]) =>
      list.map((id) => ({ id, counts: metric === REQUEST_SERIES.requests })),
    );
    if (ids.length > MOST_SERIES)
      throw new Refusal(
        'tooLarge',
        `These pods tell of their operations in ${formatCount(ids.length, 'series', 'series')}, more than the ${MOST_SERIES} that are read at once. Look at one pod.`,
      );
    const read = await this.samples.read({
      ids: ids.map(({ id }) => id),
      from: window.from - APART,
      to: window.to,
      resolution: this.usage.resolutionFor(window),
    });
    const podOf = podsBy(pods);
    const pieces = new Pieces();
    const told: OperationTold[] = [];
    for (const { id, counts } of ids) {
      if (pieces.due) await pieces.pause();
      const samples = read.get(id);
      if (!samples) continue;
      const labels = new Map(this.numbers.table.labels(id));
      const pod = podOf(labels);
      const bound = labels.get(BOUND_LABEL) ?? '';
      told.push({
        operation: labels.get(REQUEST_SERIES.operation) ?? '',
        pod: pod?.name ?? '',
        version: pod?.containers[0] ? tagOf(pod.containers[0].image) : '',
        cold: labels.get(REQUEST_SERIES.start) === REQUEST_SERIES.cold,
        browser: labels.get(REQUEST_SERIES.from) === REQUEST_SERIES.browser,
        failed: counts ? labels.get(REQUEST_SERIES.outcome) === REQUEST_SERIES.failed : null,
        bound: counts ? null : bound === '+Inf' ? Number.POSITIVE_INFINITY : Number(bound),
        grown: grownWithin(samples, { from: window.from, to: window.to, begins: true }),
      });
    }
    return told;
  }
}
