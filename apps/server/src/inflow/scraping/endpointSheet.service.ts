import { Injectable } from '@nestjs/common';
import type { HistoryAnswer, MetricsAnswer, SeriesAnswer } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { formatClock, formatCount } from '@zetopsis/core/format';
import { DAY } from '@zetopsis/core/units';
import { Clock } from '../../ground/platform/settings.ts';
import { ExemplarsService } from '../../keeping/store/exemplars.service.ts';
import { NewestReadings } from '../../keeping/store/newestReadings.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { EndpointStore } from './endpoint.store.ts';
import { EndpointAnswersService } from './endpointAnswers.service.ts';
import { HistoryService } from './history.service.ts';

const SHOWN = 200;
const EXEMPLARS = 20;

/** What there is to know of one endpoint beside its newest page. */
@Injectable()
export class EndpointSheetService {
  constructor(
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly store: EndpointStore,
    private readonly readings: HistoryService,
    private readonly samples: SamplesService,
    private readonly newest: NewestReadings,
    private readonly numbers: SeriesNumbers,
    private readonly exemplars: ExemplarsService,
    private readonly clock: Clock,
  ) {}

  async history(reach: Reach, id: number): Promise<HistoryAnswer> {
    this.endpointAnswers.look(reach, id);
    const from = this.clock.now() - DAY;
    const stretches = await this.store.history(id, from);
    const current = this.readings.current(id);
    const gaps = await this.store.gaps([id], from, this.clock.now());
    return {
      stretches: [...stretches, ...(current ? [current] : [])].map(({ endpointId: _, ...stretch }) => stretch),
      gaps: gaps.map(({ endpointId: _, ...gap }) => gap).reverse(),
    };
  }

  async metrics(reach: Reach, id: number, find: string): Promise<MetricsAnswer> {
    const { plan, status } = this.endpointAnswers.look(reach, id);
    const newest = this.newest.edge.newest(id);
    const families = status.last?.page.families;
    const wanted = find.toLowerCase();
    const all = [...this.numbers.metricsOf(id)]
      .filter(([name]) => name.toLowerCase().includes(wanted))
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([name, ids]): MetricsAnswer['metrics'][number] => {
        const there = newest ? ids.filter((one) => newest.layout.placeOf(one) >= 0) : [];
        const first = there[0] ?? ids[0]!; // a metric has a series
        const value = there.length === 0 ? undefined : newest?.frame.values[newest.layout.placeOf(first)];
        const family = families?.get(name) ?? families?.get(name.replace(/_(total|bucket|sum|count|created)$/, ''));
        return {
          name,
          type: family?.type ?? 'unknown',
          unit: family?.unit ?? '',
          help: family?.help ?? '',
          series: there.length === 0 ? ids.length : there.length,
          state: there.length === 0 ? 'gone' : 'read',
          lastAt: there.length > 0 ? (newest?.at ?? null) : (this.samples.recent(first).times.at(-1) ?? null),
          value: finite(value),
        };
      });
    const exemplars = (await this.exemplars.newestOf(id, EXEMPLARS))
      .map(({ seriesId, ...exemplar }) => ({ ...exemplar, metric: this.numbers.table.metricOf(seriesId) }))
      .filter(({ metric }) => metric.toLowerCase().includes(wanted));
    return {
      metrics: all.slice(0, SHOWN),
      more: Math.max(0, all.length - SHOWN),
      attached: { ...plan.dress.attach },
      exemplars,
      answer: this.answerTo(find, all),
    };
  }
  /** Each series of one metric: by what it is told apart, its newest value, and an earlier one. */
  series(reach: Reach, id: number, metric: string): SeriesAnswer {
    this.endpointAnswers.look(reach, id);
    const newest = this.newest.edge.newest(id);
    const ids = this.numbers.metricsOf(id).get(metric) ?? [];
    const series = ids.slice(0, SHOWN).map((one): SeriesAnswer['series'][number] => {
      const place = newest?.layout.placeOf(one) ?? -1;
      const recent = this.samples.recent(one);
      const value = place < 0 ? recent.values.at(-1) : newest?.frame.values[place];
      const [at] = recent.times;
      const [earlier] = recent.values;
      return {
        labels: Object.fromEntries(this.numbers.table.labels(one)),
        state: place < 0 ? 'gone' : 'read',
        lastAt: place < 0 ? (recent.times.at(-1) ?? null) : (newest?.at ?? null),
        value: finite(value),
        before:
          at === undefined || finite(earlier) === null || recent.times.length < 2 ? null : { at, value: earlier! }, // finite
      };
    });
    return { series, more: Math.max(0, ids.length - SHOWN) };
  }
  /** Asked for one metric by its name, it is said what is known of it. */
  private answerTo(find: string, all: MetricsAnswer['metrics']): string | null {
    if (find === '') return null;
    const own = all.find(({ name }) => name === find);
    const now = this.clock.now();
    if (!own) return all.length > 0 ? null : `No metric like “${find}” was ever read from here.`;
    if (own.state === 'gone')
      return `It is gone${own.lastAt === null ? '' : ` since ${formatClock(own.lastAt, now)}`}: the newest page has it no more.`;
    const series = formatCount(own.series, 'series', 'series');
    return own.value === 0 && own.series === 1 ? `It is read; its value is 0.` : `It is read: ${series}.`;
  }
}

const finite = (value: number | undefined): number | null =>
  value === undefined || !Number.isFinite(value) ? null : value;
