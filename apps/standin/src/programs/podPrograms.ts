import type { ApiObject } from '../world/objects.ts';
import type { World } from '../world/world.ts';

/** A page as a program answers it. */
export interface Answer {
  readonly status: number;
  readonly type: string;
  readonly body: string;
}
export const OPENMETRICS = 'application/openmetrics-text; version=1.0.0; charset=utf-8';
/** Requests that a second of CPU time answers. */
const REQUESTS = 40;
const BOUNDS = [0.01, 0.05, 0.1, 0.5, 1];
/** Share of requests below each bound. */
const SHARES = [0.3, 0.72, 0.9, 0.985, 0.998];

/** What pods of workloads with a page of their own answer; the annotation names its port and path. */
export function podAnswer(world: World, pod: ApiObject, port: number, path: string): Answer | null {
  if (pod['status'].phase !== 'Running') return null;
  const serves = pod.metadata.annotations?.['zetopsis/serves'] ?? '';
  const now = Date.now();
  const container = world.readings.containersOf(pod)[0];
  if (!container) return null;
  if (serves.startsWith('9102') && port === 9102) {
    if (path !== '/metrics') return { status: 404, type: 'text/plain', body: 'nothing here\n' };
    return { status: 200, type: OPENMETRICS, body: requestsPage(world.readings.cpuSeconds(container, now) * REQUESTS) };
  }
  if (serves.startsWith('8080') && port === 8080)
    return {
      status: 200,
      type: 'text/plain',
      body: `gauge: north-mole\nlevel_cm: ${180 + Math.round(40 * Math.sin(now / 6e6))}\nstate: steady\n`,
    };
  return null;
}

function requestsPage(requests: number): string {
  const whole = Math.floor(requests);
  const failed = Math.floor(requests / 250);
  const lines = [
    '# TYPE app_requests counter',
    '# HELP app_requests Requests answered, by outcome.',
    `app_requests_total{outcome="good"} ${whole - failed}`,
    `app_requests_total{outcome="failed"} ${failed}`,
    '# TYPE app_request_duration_seconds histogram',
    '# UNIT app_request_duration_seconds seconds',
    '# HELP app_request_duration_seconds How long requests took.',
    ...BOUNDS.map((bound, i) => `app_request_duration_seconds_bucket{le="${bound}"} ${Math.floor(whole * SHARES[i]!)}`),
    `app_request_duration_seconds_bucket{le="+Inf"} ${whole}`,
    `app_request_duration_seconds_sum ${(whole * 0.062).toFixed(3)}`,
    `app_request_duration_seconds_count ${whole}`,
    '# TYPE app_open_requests gauge',
    '# HELP app_open_requests Requests being answered now.',
    `app_open_requests ${whole % 7}`,
    '# EOF\n',
  ];
  return lines.join('\n');
}
