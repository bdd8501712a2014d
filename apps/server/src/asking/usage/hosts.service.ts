import { Injectable } from '@nestjs/common';
import { isUnread, linesOf, listed } from '@zetopsis/answers/cluster';
import { rowOf } from '@zetopsis/answers/columns';
import type { Window } from '@zetopsis/answers/usage';
import type { EndpointAnswer, FlowLines, OtherResource, SheetAnswer, UsageRow } from '@zetopsis/contract';
import { partOf, writePath } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { emptyBecause } from '@zetopsis/core/emptiness';
import type { Finding } from '@zetopsis/core/findings';
import { formatCount } from '@zetopsis/core/format';
import type { Samples } from '@zetopsis/core/samples';
import type { SeriesId } from '@zetopsis/core/units';
import {
  comparedOf,
  figuresOf,
  flowOnGrid,
  type Grid,
  gridFor,
  HOST_LABELS,
  HOST_METRICS,
  hostUsage,
  levelOnGrid,
  linesAgainst,
  PROCESS_METRICS,
  type ResourceUsage,
  sumOfLines,
  USED_STATE,
  type UsageNode,
} from '@zetopsis/core/usage';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { EndpointAnswersService } from '../../inflow/scraping/endpointAnswers.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { TIERS } from '../../keeping/store/tiers.ts';
import { ProcessesService } from './processes.service.ts';
import { UsageService } from './usage.service.ts';

const MOST = 500;
const NO_FIGURES = emptyBecause('notToldByHost');
interface Read {
  readonly node: UsageNode;
  readonly grid: Grid;
  readonly interval: number;
  readonly of: (metric: keyof typeof HOST_METRICS) => { id: SeriesId; samples: Samples }[];
}

/** Machines outside all clusters: objects known by the name that their endpoints were given. They concern those who may read everything. */
@Injectable()
export class HostsService {
  constructor(
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
    private readonly usage: UsageService,
    private readonly configuration: ConfigurationService,
    private readonly processes: ProcessesService,
  ) {}

  /** Each with the endpoints that speak of it. */
  private known(reach: Reach): Map<string, EndpointAnswer[]> {
    if (!reach.mayEverywhere('read')) return new Map();
    const outside = new Map(
      this.endpointAnswers
        .list(reach)
        .filter(({ connection, kind }) => connection === null && kind !== 'own')
        .map((endpoint) => [endpoint.id, endpoint]),
    );
    const hosts = new Map<string, Set<EndpointAnswer>>();
    const note = (name: string, endpoint: EndpointAnswer | undefined) => {
      if (!endpoint || name === '') return;
      const own = hosts.get(name) ?? new Set();
      hosts.set(name, own.add(endpoint));
    };
    // one that was never read is there, too: with the reason
    for (const [key, { host }] of this.configuration.all('endpoint'))
      note(
        host,
        [...outside.values()].find(({ kind, name }) => kind === 'given' && name === key),
      );
    for (const { value, endpoint } of this.numbers.table.withLabel(HOST_LABELS.host))
      note(value, outside.get(endpoint));
    return new Map([...hosts].sort(([a], [b]) => (a < b ? -1 : 1)).map(([name, own]) => [name, [...own]]));
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
        const figures = (read: Read) => other && this.otherFigures(read, other);
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
    const first = await Promise.all(own.map(({ id }) => this.samples.firstReadingAt(id)));
    const since = Math.min(...first.map((at) => at ?? Number.POSITIVE_INFINITY));
    return {
      level: 'host',
      name,
      kind: 'host',
      path: writePath({ is: 'host', host: name }),
      owner: null,
      createdAt: Number.isFinite(since) ? since : null,
      endedAt: null,
      facts: [
        { name: 'read by', text: own.map((endpoint) => `${endpoint.name}, ${endpoint.state}`).join('; ') },
        {
          name: 'series',
          text: formatCount(
            own.reduce((sum, { id }) => sum + this.numbers.table.countOf(id), 0),
            'series',
            'series',
          ),
        },
      ],
      findings: findingsOf(own),
      raised: [],
      usage: node.usage,
      against: then ? comparedOf(then.node) : null,
      throttled: null,
      grid,
      cpu: linesOf(node.lines.cpu, then?.node.lines.cpu.use ?? null),
      memory: linesOf(node.lines.memory, then?.node.lines.memory.use ?? null),
      requests: [],
      flows: flowsOf(now, then, (id, label) => this.samples.label(id, label)),
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
      tables: await this.processes.tables(
        this.seriesOf(name, new Set(own.map(({ id }) => id)), PROCESS_METRICS),
        grid,
        now.interval,
      ),
      left: 0,
      events: [],
      eventsMissing: null,
    };
  }
  private mustKnow(reach: Reach, name: string): EndpointAnswer[] {
    const own = this.known(reach).get(name);
    if (!own) throw new Refusal('notFound', 'No machine of this name is known. Name it at the endpoint that reads it.');
    return own;
  }

  /** Of a machine: its network, and all its file systems in sum; there is nothing else of it. */
  private otherFigures(read: Read, other: OtherResource): ResourceUsage | null {
    const label = (id: SeriesId, name: string) => this.samples.label(id, name);
    const open = (use: Float64Array) => figuresOf(linesAgainst(use, new Uint8Array(use.length), null), 'none');
    if (other === 'received' || other === 'sent')
      return open(networkOf(read, other === 'received' ? 'receive' : 'transmit', label));
    if (other !== 'files') return null;
    const parts = mountsOf(read, label).map((mount) =>
      linesAgainst(usedOf(read, mount, label), new Uint8Array(read.grid.count), sizeOf(read, mount, label)),
    );
    return parts.length === 0 ? null : figuresOf(sumOfLines(read.grid, parts), 'size');
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
  private async read(name: string, own: readonly EndpointAnswer[], window: Window): Promise<Read> {
    const resolution = this.usage.resolutionFor(window);
    const slowest = Math.max(...own.map(({ intervalSeconds }) => intervalSeconds * 1000));
    const interval = resolution === 'samples' ? slowest : Math.max(slowest, TIERS[resolution].bucket);
    const grid = gridFor(window.from, window.to, interval);
    const endpoints = new Set(own.map(({ id }) => id));
    const ids = this.seriesOf(name, endpoints, HOST_METRICS);
    const from = window.from - Math.max(grid.step, 6 * interval);
    const read = await this.samples.read({ ids: [...ids.values()].flat(), from, to: window.to, resolution });
    const of = (metric: keyof typeof HOST_METRICS) =>
      (ids.get(HOST_METRICS[metric]) ?? []).flatMap((id) => {
        const samples = read.get(id);
        return samples ? [{ id, samples }] : [];
      });
    const label = (id: SeriesId, one: keyof typeof HOST_LABELS) => this.samples.label(id, HOST_LABELS[one]);
    return {
      grid,
      interval,
      of,
      node: hostUsage({
        name,
        grid,
        interval,
        host: {
          cpu: of('cpuTime').map(({ id, samples }) => ({
            mode: label(id, 'cpuMode'),
            processor: label(id, 'cpuNumber'),
            samples,
          })),
          cpuCount: of('cpuCount').map(({ samples }) => samples),
          memory: of('memory').map(({ id, samples }) => ({ state: label(id, 'memoryState'), samples })),
          memoryLimit: of('memoryLimit').map(({ samples }) => samples),
        },
      }),
    };
  }
}

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

type LabelOf = (id: SeriesId, label: string) => string;
const networkOf = ({ of, grid, interval }: Read, direction: string, labelOf: LabelOf): Float64Array =>
  flowOnGrid(
    of('network')
      .filter(({ id }) => labelOf(id, HOST_LABELS.direction) === direction)
      .map(({ samples }) => samples),
    grid,
    interval,
  );
const mountsOf = ({ of }: Read, labelOf: LabelOf): string[] =>
  [...new Set(of('files').map(({ id }) => labelOf(id, HOST_LABELS.mount)))].sort().slice(0, 12);
const usedOf = ({ of, grid, interval }: Read, mount: string, labelOf: LabelOf): Float64Array =>
  levelOnGrid(
    of('files')
      .filter(({ id }) => labelOf(id, HOST_LABELS.mount) === mount && labelOf(id, HOST_LABELS.fileState) === USED_STATE)
      .map(({ samples }) => samples),
    grid,
    interval,
  );
function sizeOf({ of, grid, interval }: Read, mount: string, labelOf: LabelOf): Float64Array {
  const ofMount = (metric: 'files' | 'fileLimit') =>
    of(metric).filter(({ id }) => labelOf(id, HOST_LABELS.mount) === mount);
  const given = ofMount('fileLimit');
  return levelOnGrid(
    (given.length > 0 ? given : ofMount('files')).map(({ samples }) => samples),
    grid,
    interval,
  );
}

function flowsOf(now: Read, then: Read | null, labelOf: LabelOf): FlowLines[] {
  const mounts = mountsOf(now, labelOf);
  const directions = [
    ['received', networkOf(now, 'receive', labelOf), then && networkOf(then, 'receive', labelOf)],
    ['sent', networkOf(now, 'transmit', labelOf), then && networkOf(then, 'transmit', labelOf)],
  ] as const;
  return [
    {
      title: 'Network',
      unit: 'bytes per s',
      lines: directions.map(([name, values, before]) => ({
        name,
        values: listed(values),
        against: before && listed(before),
      })),
      limit: null,
      empty: directions.every(([, values]) => isUnread(values)) ? NO_FIGURES : null,
    },
    ...mounts.map((mount): FlowLines => {
      const used = usedOf(now, mount, labelOf);
      return {
        title: `File system ${mount}`,
        unit: 'bytes',
        lines: [{ name: 'used', values: listed(used), against: then && listed(usedOf(then, mount, labelOf)) }],
        limit: listed(sizeOf(now, mount, labelOf)),
        empty: isUnread(used) ? NO_FIGURES : null,
      };
    }),
  ];
}
