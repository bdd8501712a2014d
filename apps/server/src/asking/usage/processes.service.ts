import { Injectable } from '@nestjs/common';
import type { MeasuredObject } from '@zetopsis/answers/sheet';
import type { SeenUsage } from '@zetopsis/answers/usage';
import type { SheetAnswer } from '@zetopsis/contract';
import { formatBytes, formatCores } from '@zetopsis/core/format';
import { OBJECT_LABELS } from '@zetopsis/core/scouting';
import type { DurationMs, SeriesId } from '@zetopsis/core/units';
import { type Grid, gridEnd, PROCESS_LABELS, PROCESS_METRICS, processesAt } from '@zetopsis/core/usage';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { OwnSeries } from './ownSeries.service.ts';
import { UsageService } from './usage.service.ts';

const MOST = 15;
const WHATS = Object.keys(PROCESS_METRICS) as (keyof typeof PROCESS_METRICS)[]; // its own keys
const METRICS = Object.values(PROCESS_METRICS);
/** How far back processes are read, in intervals: they are told as they are at the window's end. */
const LOOK_BACK = 10;

/** Processes in a pod, on a node or on a machine, where something tells of them. */
@Injectable()
export class ProcessesService {
  constructor(
    private readonly samples: SamplesService,
    private readonly own: OwnSeries,
    private readonly usage: UsageService,
  ) {}

  async tablesOf({ connectionId, input }: SeenUsage, found: MeasuredObject): Promise<SheetAnswer['tables']> {
    const ids =
      found.level === 'node'
        ? this.own.ofNode(connectionId, found.node.name, METRICS)
        : found.level === 'pod' || found.level === 'container'
          ? this.own.ofPods(connectionId, found.pods, METRICS)
          : null;
    if (ids === null) return [];
    const named = found.level === 'container' ? found.node.name : null;
    const lasting = found.pods[0]?.containers.filter(({ role }) => role === 'main').length ?? 0;
    const mine = (id: SeriesId) => {
      const container = this.samples.label(id, OBJECT_LABELS.container);
      return named === null || container === named || (container === '' && lasting === 1);
    };
    return this.tables(
      new Map([...ids].map(([metric, list]) => [metric, list.filter(mine)])),
      input.grid,
      input.interval,
    );
  }

  /** `ids` by metric. */
  async tables(
    ids: ReadonlyMap<string, readonly SeriesId[]>,
    grid: Grid,
    atLeast: DurationMs,
  ): Promise<SheetAnswer['tables']> {
    const end = gridEnd(grid);
    const interval = this.own.intervalOf([...ids.values()].flat(), atLeast);
    const read = await this.samples.read({
      ids: [...ids.values()].flat(),
      from: end - LOOK_BACK * interval,
      to: end,
      resolution: this.usage.resolutionFor({ from: grid.start, to: end, live: false }),
    });
    const series = WHATS.flatMap((what) =>
      (ids.get(PROCESS_METRICS[what]) ?? []).flatMap((id) => {
        const samples = read.get(id);
        const label = (name: string) => this.samples.label(id, name);
        return samples
          ? [
              {
                what,
                samples,
                name: label(PROCESS_LABELS.name),
                pid: label(PROCESS_LABELS.pid),
                of: label(OBJECT_LABELS.container),
              },
            ]
          : [];
      }),
    );
    const processes = processesAt(series, grid, interval);
    if (processes.length === 0) return [];
    const count = (value: number | null) => (value === null ? 'not read' : String(Math.round(value)));
    return [
      {
        title:
          processes.length > MOST
            ? `Processes: the ${MOST} of ${processes.length} that use most`
            : 'Processes, at the end of the window',
        columns: ['process', 'cores', 'memory', 'threads', 'files'],
        rows: processes
          .slice(0, MOST)
          .map(({ name, pid, cpu, memory, threads, files }) => [
            pid === '' ? name || 'unnamed' : `${name || 'process'} (${pid})`,
            formatCores(cpu, false),
            formatBytes(memory),
            count(threads),
            count(files),
          ]),
      },
    ];
  }
}
