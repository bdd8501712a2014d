import type { ServerResponse } from 'node:http';
import { type LoggedLine, podLog } from '../programs/podLogs.ts';
import type { ApiObject } from '../world/objects.ts';
import type { World } from '../world/world.ts';
import { status } from './discovery.ts';

const WRITES_EVERY = 500;

/** What a container wrote, and, where it is followed, what it writes until it ends. */
export function answerLog({
  response,
  world,
  pod,
  query,
}: {
  readonly response: ServerResponse;
  readonly world: World | null;
  readonly pod: ApiObject | undefined;
  readonly query: URLSearchParams;
}): void {
  const refuse = (code: number, reason: string, text: string) =>
    response.writeHead(code, { 'content-type': 'application/json' }).end(JSON.stringify(status(code, reason, text)));
  if (!pod) {
    refuse(404, 'NotFound', 'the pod is not found');
    return;
  }
  const container = query.get('container') ?? pod['spec'].containers[0].name;
  const previous = query.get('previous') === 'true';
  const since = Date.parse(query.get('sinceTime') ?? '') || 0;
  const between = (from: number, to: number) => podLog({ world, pod, container, previous, from, to });
  let upTo = Date.now();
  const lines = between(since, upTo);
  if (typeof lines === 'string') {
    refuse(400, 'BadRequest', lines.slice(1));
    return;
  }
  const written = (some: readonly LoggedLine[]) =>
    some.map(({ at, text }) => `${query.get('timestamps') === 'true' ? `${stampOf(at)} ` : ''}${text}\n`).join('');
  const wanted = Number(query.get('tailLines') ?? lines.length);
  response.writeHead(200, { 'content-type': 'text/plain' }).write(written(wanted === 0 ? [] : lines.slice(-wanted)));
  if (query.get('follow') !== 'true' || previous) {
    response.end();
    return;
  }
  const writing = setInterval(() => {
    const now = Date.now();
    const running = podRuns(world, pod, container);
    const more = running ? between(upTo, now) : [];
    upTo = now;
    if (typeof more !== 'string' && more.length > 0) response.write(written(more));
    if (!running) response.end();
  }, WRITES_EVERY);
  response.on('close', () => clearInterval(writing));
}
/** As the world has it by now. */
function podRuns(
  world: World | null,
  { metadata: { namespace = '', name, uid } }: ApiObject,
  container: string,
): boolean {
  const now = world?.store.get('pods', namespace, name);
  if (world && now?.metadata.uid !== uid) return false;
  const statuses = now?.['status'].containerStatuses ?? [];
  return statuses.some(
    (one: { name: string; state?: { running?: object } }) => one.name === container && one.state?.running,
  );
}
/** Nanoseconds, without zeros at their end, as clusters write them. */
const stampOf = (at: number): string => new Date(at).toISOString().replace(/\.?0*Z$/, 'Z');
