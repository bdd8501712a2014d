import { createHash } from 'node:crypto';
import { TIMES_WORDS, timesAsked } from '../pages/nodePages.ts';
import { LABELS, METRICS } from '../wire-names.ts';
import type { ApiObject } from '../world/objects.ts';
import type { World } from '../world/world.ts';

/** A page as a program answers it. */
export interface Answer {
  readonly status: number;
  readonly type: string;
  readonly body: string;
}
export const OPENMETRICS = 'application/openmetrics-text; version=1.0.0; charset=utf-8';
/** Bounds of buckets, and which share of the requests stays below each: with room, and while throttled. */
const BOUNDS = [0.01, 0.05, 0.1, 0.5, 1, 2.5];
const SHARES = {
  calm: [0.3, 0.72, 0.9, 0.985, 0.998, 1],
  strained: [0.02, 0.11, 0.24, 0.71, 0.9, 0.98],
} as const;
const MEAN = { calm: 0.062, strained: 0.43 } as const;
/** One of so many fails. */
const FAILS = { calm: 250, strained: 22 } as const;
type Requests = ReturnType<World['readings']['requests']>;
const KINDS = ['calm', 'strained'] as const;
const sumOf = (value: (kind: (typeof KINDS)[number]) => number) => Math.floor(value('calm') + value('strained'));

/** What pods of workloads with a page of their own answer; the annotation names its port and path. */
export function podAnswer({
  world,
  pod,
  port,
  target,
}: {
  readonly world: World;
  readonly pod: ApiObject;
  readonly port: number;
  readonly target: string;
}): Answer | null {
  if (pod['status'].phase !== 'Running') return null;
  const serves = pod.metadata.annotations?.['zetopsis/serves'] ?? '';
  const now = Date.now();
  const { pathname: path, searchParams } = new URL(target, 'http://pod');
  const container = world.readings.containersOf(pod)[0];
  if (!container) return null;
  if (serves.startsWith('9102') && port === 9102) {
    const linesAt = (at: number, example: Example | null = null) => {
      const answered = world.readings.requests(container, at);
      return pod.metadata.labels?.['app'] === 'booking-front'
        ? conventionLines(answered, example)
        : [
            ...ownLines(answered, example),
            ...buildLines(at - container.runsSince),
            ...processLines(world.readings.cpuSeconds(container, at)),
          ];
    };
    if (path === '/metrics') {
      const lines = linesAt(now, exampleOf(pod.metadata.uid, now));
      return { status: 200, type: OPENMETRICS, body: [...lines, '# EOF\n'].join('\n') };
    }
    if (path !== '/history') return { status: 404, type: 'text/plain', body: 'nothing here\n' };
    const times = timesAsked(searchParams, now)?.filter((at) => at >= container.runsSince);
    if (!times) return { status: 400, type: 'text/plain', body: `${TIMES_WORDS}\n` };
    return { status: 200, type: OPENMETRICS, body: pastPage(times, linesAt) };
  }
  if (serves.startsWith('8080') && port === 8080)
    return {
      status: 200,
      type: 'text/plain',
      body: `gauge: north-mole\nlevel_cm: ${180 + Math.round(40 * Math.sin(now / 6e6))}\nstate: steady\n`,
    };
  return null;
}

/** Every metric at each of these times, all its lines of one time together; what is no sample stands once. */
function pastPage(times: readonly number[], linesAt: (at: number) => string[]): string {
  const pages = times.map((at) => ({ at, lines: linesAt(at) }));
  const metrics: { of: string; lines: number[] }[] = [];
  for (const [i, line] of (pages[0]?.lines ?? []).entries()) {
    const of = line.startsWith('#') ? line : metricOf(line);
    const last = metrics.at(-1);
    if (last?.of === of) last.lines.push(i);
    else metrics.push({ of, lines: [i] });
  }
  const lines = metrics.flatMap(({ of, lines: own }) =>
    of.startsWith('#')
      ? [of]
      : pages.flatMap(({ at, lines: all }) => own.map((i) => `${all[i]} ${(at / 1000).toFixed(3)}`)),
  );
  return [...lines, '# EOF\n'].join('\n');
}
/** What a line's metric is called: buckets, sum and count are one. */
const metricOf = (line: string): string =>
  line
    .replace(/ [^ ]*$/, '')
    .replace(/_(bucket|sum|count)(?=\{|$)/, '')
    .replace(/,?le="[^"]*"/, '')
    .replace(/\{\}$/, '');

/** A request that fell between two bounds (seconds), told behind a bucket's line: its trace, how long it took, and when. */
type Example = (series: string, from: number, to: number) => string;
const EXAMPLE_EVERY = 30_000;
function exampleOf(pod: string, now: number): Example {
  const turn = Math.floor(now / EXAMPLE_EVERY);
  return (series, from, to) => {
    const trace = createHash('sha256').update(`${pod} ${series} ${to} ${turn}`).digest('hex').slice(0, 32);
    const part = Number.parseInt(trace.slice(0, 4), 16) / 65_536;
    const at = turn * EXAMPLE_EVERY - part * 10_000;
    return ` # {trace_id="${trace}"} ${(from + (to - from) * part).toFixed(4)} ${(at / 1000).toFixed(3)}`;
  };
}

/** The buckets, sum and count of those requests of which `share` is told. */
function histogramLines({
  name,
  labels,
  answered,
  share,
  example = null,
}: {
  readonly name: string;
  readonly labels: string;
  readonly answered: Requests;
  readonly example?: Example | null;
  readonly share: Record<'calm' | 'strained', number>;
}) {
  const given = labels === '' ? '' : `${labels},`;
  const own = labels === '' ? '' : `{${labels}}`;
  const all = sumOf((kind) => answered[kind] * share[kind]);
  const upTo = (i: number) => (i < 0 ? 0 : sumOf((kind) => answered[kind] * share[kind] * SHARES[kind][i]!));
  return [
    ...BOUNDS.map((bound, i) => {
      const told = example !== null && upTo(i) > upTo(i - 1) ? example(labels, BOUNDS[i - 1] ?? 0, bound) : '';
      return `${name}_bucket{${given}le="${bound}"} ${upTo(i)}${told}`;
    }),
    `${name}_bucket{${given}le="+Inf"} ${all}`,
    `${name}_sum${own} ${KINDS.reduce((sum, kind) => sum + answered[kind] * share[kind] * MEAN[kind], 0).toFixed(3)}`,
    `${name}_count${own} ${all}`,
  ];
}

/** A program that names its figures in its own way. */
function ownLines(answered: Requests, example: Example | null): string[] {
  const failed = sumOf((kind) => answered[kind] / FAILS[kind]);
  const whole = sumOf((kind) => answered[kind]);
  return [
    '# TYPE app_requests counter',
    '# HELP app_requests Requests answered, by outcome.',
    `app_requests_total{outcome="good"} ${whole - failed}`,
    `app_requests_total{outcome="failed"} ${failed}`,
    '# TYPE app_request_duration_seconds histogram',
    '# UNIT app_request_duration_seconds seconds',
    '# HELP app_request_duration_seconds How long requests took.',
    ...histogramLines({
      name: 'app_request_duration_seconds',
      labels: '',
      answered,
      example,
      share: { calm: 1, strained: 1 },
    }),
    '# TYPE app_open_requests gauge',
    '# HELP app_open_requests Requests being answered now.',
    `app_open_requests ${whole % 7}`,
  ];
}

const HALF_DAY = 12 * 3_600_000;
/** Something that happens seldom, and is counted: the tables of tariffs are built twice a day. */
const buildLines = (runsFor: number): string[] => [
  '# TYPE tariff_builds counter',
  '# HELP tariff_builds Tables of tariffs that were built.',
  `tariff_builds_total ${Math.max(0, Math.floor(runsFor / HALF_DAY))}`,
];

/** A program that names them by the conventions: one histogram, told apart by how it ended. */
function conventionLines(answered: Requests, example: Example | null): string[] {
  const name = METRICS.httpDuration;
  const labels = ({
    method,
    route,
    status,
    error,
  }: {
    readonly method: string;
    readonly route: string;
    readonly status: string;
    readonly error?: string | undefined;
  }) =>
    [
      `${LABELS.httpMethod}="${method}"`,
      `${LABELS.httpRoute}="${route}"`,
      `${LABELS.httpStatus}="${status}"`,
      ...(error === undefined ? [] : [`${LABELS.errorType}="${error}"`]),
    ].join(',');
  const failing = { calm: 1 / FAILS.calm, strained: 1 / FAILS.strained };
  const good = (share: number) => ({ calm: share * (1 - failing.calm), strained: share * (1 - failing.strained) });
  return [
    `# TYPE ${name} histogram`,
    `# UNIT ${name} seconds`,
    `# HELP ${name} How long requests took.`,
    ...histogramLines({
      name,
      labels: labels({ method: 'GET', route: '/sailings', status: '200' }),
      answered,
      example,
      share: good(0.7),
    }),
    ...histogramLines({
      name,
      labels: labels({ method: 'POST', route: '/bookings', status: '201' }),
      answered,
      example,
      share: good(0.3),
    }),
    ...histogramLines({
      name,
      labels: labels({ method: 'POST', route: '/bookings', status: '503', error: '503' }),
      answered,
      example,
      share: failing,
    }),
  ];
}

/** The program itself as its system sees it. */
function processLines(cpuSeconds: number): string[] {
  const labels = `{${LABELS.processName}="ledger",${LABELS.processPid}="1"}`;
  return [
    `# TYPE ${METRICS.processCpu} counter`,
    `# UNIT ${METRICS.processCpu} seconds`,
    `${METRICS.processCpu}_total${labels} ${(cpuSeconds * 0.97).toFixed(3)}`,
    `# TYPE ${METRICS.processMemory} gauge`,
    `# UNIT ${METRICS.processMemory} bytes`,
    `${METRICS.processMemory}${labels} ${584 * 1024 * 1024}`,
    `# TYPE ${METRICS.processThreads} gauge`,
    `${METRICS.processThreads}${labels} 24`,
    `# TYPE ${METRICS.processFiles} gauge`,
    `${METRICS.processFiles}${labels} 71`,
  ];
}
