import { Injectable } from '@nestjs/common';
import { isUnread, linesOf } from '@zetopsis/answers/cluster';
import { rowOf } from '@zetopsis/answers/columns';
import type { Window } from '@zetopsis/answers/usage';
import type { EndpointAnswer, OtherResource, SheetAnswer, UsageRow } from '@zetopsis/contract';
import { partOf, writePath } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import type { Finding } from '@zetopsis/core/findings';
import { formatCount } from '@zetopsis/core/format';
import type { SeriesId } from '@zetopsis/core/units';
import { comparedOf, type Grid, gridFor, hostUsage, PROCESS_METRICS } from '@zetopsis/core/usage';
import { HOST_LABELS, HOST_VITAL_NAMES, type HostVital, type Role } from '@zetopsis/core/vitals';
import { Refusal } from '../../ground/platform/refusals.ts';
import { scaled } from '../../inflow/vitals/scaled.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { TIERS } from '../../keeping/store/tiers.ts';
import { flowsOf, type HostRead, hostOther, NO_FIGURES } from './hostFlows.ts';
import { HostVitals } from './hostVitals.service.ts';
import { ProcessesService } from './processes.service.ts';
import { UsageService } from './usage.service.ts';

const MOST = 500;
const MOST_INSTEAD = 60;
/** Machines outside all clusters: objects known by the name that their endpoints were given. They concern those who may read everything. */
@Injectable()
export class HostsService {
  constructor(
    private readonly vitals: HostVitals,
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
    private readonly usage: UsageService,
    private readonly processes: ProcessesService,
  ) {}

  private known(reach: Reach): ReadonlyMap<string, readonly EndpointAnswer[]> {
    return this.vitals.machines(reach);
  }

  names(reach: Reach): string[] {
    return [...this.known(reach).keys()];
  }
  async rows({
    reach,
    window,
    against,
    other,
  }: {
    readonly reach: Reach;
    readonly window: Window;
    readonly against: Window | null;
    readonly other: OtherResource | undefined;
  }): Promise<UsageRow[]> {
    const hosts = [...this.known(reach)].slice(0, MOST);
    return Promise.all(
      hosts.map(async ([name, own]) => {
        const [now, then] = await Promise.all([
          this.read(name, own, window),
          against ? this.read(name, own, against) : null,
        ]);
        const figures = (read: HostRead) => other && hostOther(read, other);
        const before = then && figures(then);
        return rowOf(now.node, {
          key: partOf.host(name),
          other: figures(now) ?? null,
          kind: 'host',
          findings: findingsOf(own),
          against: then
            ? {
                ...comparedOf(then.node),
                other: before ? { use: before.use, mean: before.mean, peak: before.peak } : null,
              }
            : undefined,
        });
      }),
    );
  }
  /** CPU use, and the newest reading, for the tape. */
  async load(
    reach: Reach,
    name: string,
    window: Window,
  ): Promise<{ grid: Grid; load: Float64Array; newestAt: number | null }> {
    const own = this.mustKnow(reach, name);
    const { grid, node } = await this.read(name, own, window);
    const newest = Math.max(0, ...own.map(({ lastReadingAt }) => lastReadingAt ?? 0));
    return { grid, load: node.lines.cpu.use, newestAt: newest === 0 ? null : newest };
  }

  async sheet({
    reach,
    name,
    window,
    against,
  }: {
    readonly reach: Reach;
    readonly name: string;
    readonly window: Window;
    readonly against: Window | null;
  }): Promise<SheetAnswer> {
    const own = this.mustKnow(reach, name);
    const [now, then] = await Promise.all([
      this.read(name, own, window),
      against ? this.read(name, own, against) : null,
    ]);
    const { node, grid } = now;
    const first = [...(await this.samples.firstReadingsAt(own.map(({ id }) => id))).values()];
    const told = !isUnread(node.lines.cpu.use) || !isUnread(node.lines.memory.use);
    const instead = told ? [] : this.insteadOf(own);
    const why = instead.length === 0 ? undefined : NO_FIGURES;
    const since = Math.min(...first);
    const processes = this.seriesOf(name, new Set(own.map(({ id }) => id)), PROCESS_METRICS);
    return {
      ...NOTHING_OF_A_CLUSTER,
      level: 'host',
      name,
      kind: 'host',
      path: writePath({ is: 'host', host: name }),
      createdAt: Number.isFinite(since) ? since : null,
      facts: this.factsOf(own),
      findings: findingsOf(own),
      usage: node.usage,
      against: then ? comparedOf(then.node) : null,
      grid,
      cpu: linesOf(node.lines.cpu, then?.node.lines.cpu.use ?? null, why),
      memory: linesOf(node.lines.memory, then?.node.lines.memory.use ?? null, why),
      flows: flowsOf(now, then),
      tables: [...(await this.processes.tables(processes, grid, now.interval)), ...insteadTable(instead)],
    };
  }
  private factsOf(own: readonly EndpointAnswer[]) {
    const series = own.reduce((sum, { id }) => sum + this.numbers.table.countOf(id), 0);
    return [
      { name: 'read by', text: own.map((endpoint) => `${endpoint.name}, ${endpoint.state}`).join('; ') },
      { name: 'series', text: formatCount(series, 'series', 'series') },
    ];
  }
  /** Metrics of its pages, where none is of those that its figures are read from. */
  private insteadOf(own: readonly EndpointAnswer[]): string[][] {
    return own
      .flatMap(({ id, name }) => [...this.numbers.metricsOf(id)].map(([metric, ids]) => ({ metric, ids, name })))
      .sort((a, b) => (a.metric < b.metric ? -1 : 1))
      .slice(0, MOST_INSTEAD)
      .map(({ metric, ids, name }) => [metric, formatCount(ids.length, 'series', 'series'), name]);
  }
  private mustKnow(reach: Reach, name: string): readonly EndpointAnswer[] {
    const own = this.known(reach).get(name);
    if (!own) throw new Refusal('notFound', 'No machine of this name is known. Name it at the endpoint that reads it.');
    return own;
  }

  private seriesOf(
    name: string,
    endpoints: ReadonlySet<number>,
    metrics: Readonly<Record<string, string>>,
  ): Map<string, SeriesId[]> {
    return new Map(
      Object.values(metrics).map((metric) => [
        metric,
        this.samples
          .select(metric, [{ label: HOST_LABELS.host, is: name }])
          .filter((id) => endpoints.has(this.samples.endpointOf(id) ?? -1)),
      ]),
    );
  }
  private async read(name: string, own: readonly EndpointAnswer[], window: Window): Promise<HostRead> {
    const resolution = this.usage.resolutionFor(window);
    const slowest = Math.max(...own.map(({ intervalSeconds }) => intervalSeconds * 1000));
    const interval = resolution === 'samples' ? slowest : Math.max(slowest, TIERS[resolution].bucket);
    const grid = gridFor(window.from, window.to, interval);
    const endpoints = new Set(own.map(({ id }) => id));
    const series = new Map(HOST_VITAL_NAMES.map((vital) => [vital, this.vitals.series(name, endpoints, vital)]));
    const from = window.from - Math.max(grid.step, 6 * interval);
    const wanted = [...series.values()].flatMap((list) => list.map(({ id }) => id));
    const read = await this.samples.read({ ids: [...new Set(wanted)], from, to: window.to, resolution });
    const of = (vital: HostVital) =>
      (series.get(vital) ?? []).flatMap(({ id, mapping }) => {
        const samples = read.get(id);
        const label = (role: Role) => {
          const named = mapping.labels[role];
          return named === undefined ? null : this.samples.label(id, named);
        };
        return samples ? [{ samples: scaled(samples, mapping.factor), label }] : [];
      });
    return {
      grid,
      interval,
      of,
      node: hostUsage({
        name,
        grid,
        interval,
        host: {
          cpu: of('host.cpu.time').map(({ label, samples }) => ({
            mode: label('mode') ?? '',
            processor: label('processor') ?? '',
            samples,
          })),
          cpuCount: of('host.cpu.count').map(({ samples }) => samples),
          memory: of('host.memory.usage').map(({ label, samples }) => ({ state: label('state') ?? '', samples })),
          memoryLimit: of('host.memory.limit').map(({ samples }) => samples),
        },
      }),
    };
  }
}

/** What a sheet tells of objects of a cluster, and a machine outside has not. */
const NOTHING_OF_A_CLUSTER = {
  owner: null,
  endedAt: null,
  raised: [],
  throttled: null,
  requests: [],
  measures: null,
  marks: [],
  restarts: 0,
  containers: [],
  nodes: [],
  volumes: [],
  quotas: [],
  runs: null,
  nextDueAt: null,
  related: [],
  runningOut: null,
  elsewhere: [],
  rollout: null,
  changes: [],
  logs: [],
  left: 0,
  events: [],
  eventsMissing: null,
};
const insteadTable = (rows: string[][]) =>
  rows.length === 0
    ? []
    : [{ title: 'What its pages have instead', columns: ['metric', 'series', 'page'], rows, mappable: true }];

function findingsOf(own: readonly EndpointAnswer[]): Finding[] {
  return own
    .filter(({ state }) => state === 'failing' || state === 'late')
    .map((endpoint) => ({
      code: 'notRead' as const,
      severity: 'warning' as const,
      reason: `${endpoint.name} is ${endpoint.state === 'late' ? 'late: nothing came for longer than expected' : 'not read'}`,
      evidence: endpoint.state === 'failing' ? (endpoint.lastError ?? '') : '',
      since: endpoint.since,
      nextStep: 'Look at the endpoint in Sources, Endpoints: it says what happened at each try.',
    }));
}
