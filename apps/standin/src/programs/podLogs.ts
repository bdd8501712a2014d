import type { ApiObject } from '../world/objects.ts';
import type { World } from '../world/world.ts';
import { speaks, writtenBy } from './podLines.ts';

/** A line, and when it was written. */
export interface LoggedLine {
  readonly at: number;
  readonly text: string;
}
/** A cluster throws away what is older. */
const KEPT = 2 * 3_600_000;
const EVERY = 2000;
const STEPS = [
  'read gauges north-mole, basin: 2 of 2',
  'grid of 400 × 220 laid out',
  'step done in 1.9 s',
  'kept result for the next hour',
  'served 31 requests',
];

/**
 * What a container wrote from one moment up to another, the same each time it is asked; a text that begins with "!" is why it cannot be
 * told. `previous`: its run before this one.
 */
export function podLog({
  world,
  pod,
  container,
  previous,
  from,
  to,
}: {
  readonly world: World | null;
  readonly pod: ApiObject;
  readonly container: string;
  readonly previous: boolean;
  readonly from: number;
  readonly to: number;
}): LoggedLine[] | string {
  const statuses = [...(pod['status'].containerStatuses ?? []), ...(pod['status'].initContainerStatuses ?? [])];
  const status = statuses.find((one: { name: string }) => one.name === container);
  if (!status) return `!container ${container} is not valid for pod ${pod.metadata.name}`;
  const ended = previous ? status.lastState?.terminated : status.state?.terminated;
  if (previous && !ended)
    return `!previous terminated container "${container}" in pod "${pod.metadata.name}" not found`;
  if (!previous && status.state?.waiting && !status.lastState?.terminated)
    return `!container "${container}" in pod "${pod.metadata.name}" is waiting to start: ${status.state.waiting.reason}`;
  const end = ended ? Date.parse(ended.finishedAt) : to;
  const startedAt = (ended ?? status.state?.running)?.startedAt;
  const began = Math.max(from, startedAt ? Date.parse(startedAt) : 0, end - KEPT);
  const own = world?.readings.containersOf(pod)[0];
  const lines =
    world && own?.name === container && !ended && speaks(pod)
      ? writtenBy(world, pod, began, end).flatMap(({ at, text }) =>
          text.split('\n').map((line): LoggedLine => ({ at, text: line })),
        )
      : steps(container, began, end);
  if (ended && end >= from) {
    const last = (words: string) =>
      lines.push({ at: end, text: `${new Date(end).toISOString()} ${container} ${words}` });
    if (ended.reason === 'OOMKilled') last('warn memory for the next grid: 412 MiB asked for');
    else if (ended.exitCode !== 0) last(`error ${ended.message ?? 'gives up'}`);
    else last('info done');
  }
  return lines;
}
function steps(container: string, from: number, to: number): LoggedLine[] {
  const lines: LoggedLine[] = [];
  for (let at = Math.ceil(from / EVERY) * EVERY; at < to; at += EVERY)
    lines.push({
      at,
      text: `${new Date(at).toISOString()} ${container} info ${STEPS[(at / EVERY) % STEPS.length]}`,
    });
  return lines;
}
