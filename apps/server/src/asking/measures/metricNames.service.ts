import { Injectable } from '@nestjs/common';
import type { MetricLabelsAnswer, MetricNamesAnswer } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { BOUND_LABEL } from '@zetopsis/core/answered';
import { printMeasure } from '@zetopsis/core/measures';
import type { SeriesId } from '@zetopsis/core/units';
import { VITAL_NAMES } from '@zetopsis/core/vitals';
import { Pieces } from '../../ground/platform/inPieces.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { VitalsService } from '../../inflow/vitals/vitals.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { SeenSeries } from './seenSeries.ts';

type Metric = MetricNamesAnswer['metrics'][number];
const MOST_METRICS = 200;
const MOST_HELP = 300;
const MOST_LABELS = 300;
/** Points of a small trace. */
const TRACE = 24;

/** What there is to be read, as somebody may see it. */
@Injectable()
export class MetricNames {
  constructor(
    private readonly seen: SeenSeries,
    private readonly numbers: SeriesNumbers,
    private readonly samples: SamplesService,
    private readonly vitals: VitalsService,
    private readonly connections: ConnectionsService,
  ) {}

  /** By a part of the name, of what its page says, or of its unit. */
  async list(reach: Reach, find: string): Promise<MetricNamesAnswer> {
    const sees = this.seen.sees(reach, { cluster: null, namespace: null });
    const pieces = new Pieces();
    const wanted = find.toLowerCase();
    const metrics: Metric[] = [];
    let left = 0;
    for (let i = 0; ; i++) {
      const name = this.numbers.table.metricAt(i);
      if (name === undefined) break;
      if (pieces.due) await pieces.pause();
      const ids = this.seen.named(name);
      if (!this.fits(name, ids, wanted)) continue;
      const visible = ids.filter(sees);
      if (visible.length === 0) continue;
      if (metrics.length >= MOST_METRICS) left++;
      else metrics.push(this.told(name, visible));
    }
    return { metrics, left };
  }
  /** Of what is read under a name, as somebody may see it. */
  async labels(
    reach: Reach,
    { of, name, label }: { readonly of: 'metric' | 'vital'; readonly name: string; readonly label: string },
  ): Promise<MetricLabelsAnswer> {
    const sees = this.seen.sees(reach, { cluster: null, namespace: null });
    const pieces = new Pieces();
    const labels = new Set<string>();
    const values = new Set<string>();
    for (const id of this.idsOf(of, name)) {
      if (pieces.due) await pieces.pause();
      if (!sees(id)) continue;
      for (const [own, value] of Object.entries(this.seen.labels(id))) {
        if (labels.size < MOST_LABELS) labels.add(own);
        if (own === label && values.size < MOST_LABELS) values.add(value);
      }
    }
    if (of === 'metric' && this.seen.named(name).length === 0) labels.delete(BOUND_LABEL);
    return { labels: [...labels].sort(), values: [...values].sort() };
  }
  private idsOf(of: 'metric' | 'vital', name: string): readonly SeriesId[] {
    if (of === 'metric') {
      const own = this.seen.named(name);
      return own.length > 0 ? own : this.seen.bucketsOf(name);
    }
    const vital = VITAL_NAMES.find((one) => one === name);
    if (vital === undefined) return [];
    return this.connections.ids().flatMap((connection) => this.vitals.select(connection, vital));
  }
  private fits(name: string, [first]: readonly SeriesId[], wanted: string): boolean {
    if (wanted === '' || name.toLowerCase().includes(wanted)) return true;
    if (first === undefined) return false;
    const { help, unit } = this.seen.saidOf(name, first);
    return help.toLowerCase().includes(wanted) || unit.toLowerCase() === wanted;
  }
  private told(name: string, ids: readonly SeriesId[]): Metric {
    const [first] = ids;
    const own = name.endsWith('_bucket') ? name.slice(0, -'_bucket'.length) : name;
    const info = this.seen.info(own) ?? { type: 'gauge' as const, unit: null };
    const type = info.type === 'counter' || info.type === 'histogram' ? info.type : 'gauge';
    const said = first === undefined ? { help: '', unit: '' } : this.seen.saidOf(name, first);
    return {
      name: own,
      type,
      // a page says the unit of what is observed; how often it was is a number
      unit: info.unit ?? (name.endsWith('_count') ? '' : said.unit),
      series: ids.length,
      help: said.help.slice(0, MOST_HELP),
      from: this.seen.fromWords(ids),
      ...(first === undefined ? { last: null, trace: [] } : this.lately(first, type !== 'gauge')),
      text: suits(own, type),
    };
  }
  /** From memory only: a list of many is no work. */
  private lately(id: SeriesId, counts: boolean): Pick<Metric, 'last' | 'trace'> {
    const { times, values } = this.samples.recent(id);
    const course: (number | null)[] = [];
    const from = counts ? 1 : 0;
    const step = Math.max(1, Math.floor((times.length - from) / TRACE));
    for (let i = times.length - 1; i >= from && course.length < TRACE; i -= step) {
      const value = counts
        ? Math.max(0, values[i]! - values[i - 1]!) / Math.max(0.001, (times[i]! - times[i - 1]!) / 1000)
        : values[i]!;
      course.push(Number.isFinite(value) ? value : null);
    }
    course.reverse();
    return { last: course.at(-1) ?? null, trace: course };
  }
}

/** A measure to begin with. */
function suits(name: string, type: 'counter' | 'gauge' | 'histogram'): string {
  const read = printMeasure({
    bindings: [],
    result: { is: 'chain', chain: { source: { is: 'metric', name }, steps: [] } },
  }).trim();
  if (type === 'counter') return `${read}\n  per second over 5m\n`;
  return type === 'histogram' ? `${read}\n  per second over 5m\n  total overall\n` : `${read}\n`;
}
