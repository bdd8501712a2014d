import type { ApiObject } from '../world/objects.ts';

const LINES_MOST = 2000;
const STEPS = [
  'read gauges north-mole, basin: 2 of 2',
  'grid of 400 × 220 laid out',
  'step done in 1.9 s',
  'kept result for the next hour',
  'served 31 requests',
];

/** What a container wrote; a text that begins with "!" is why it cannot be told. */
export function podLog({
  pod,
  container,
  previous,
  now = Date.now(),
}: {
  readonly pod: ApiObject;
  readonly container: string;
  readonly previous: boolean;
  readonly now?: number;
}): string[] | string {
  const statuses = [...(pod['status'].containerStatuses ?? []), ...(pod['status'].initContainerStatuses ?? [])];
  const status = statuses.find((one: { name: string }) => one.name === container);
  if (!status) return `!container ${container} is not valid for pod ${pod.metadata.name}`;
  const ended = previous ? status.lastState?.terminated : status.state?.terminated;
  if (previous && !ended)
    return `!previous terminated container "${container}" in pod "${pod.metadata.name}" not found`;
  if (!previous && status.state?.waiting && !status.lastState?.terminated)
    return `!container "${container}" in pod "${pod.metadata.name}" is waiting to start: ${status.state.waiting.reason}`;
  const end = ended ? Date.parse(ended.finishedAt) : now;
  const lines = Array.from({ length: 120 }, (_, i) => {
    const at = new Date(end - (120 - i) * 2000).toISOString();
    return `${at} ${container} info ${STEPS[i % STEPS.length]}`;
  });
  if (ended) {
    const last = (words: string) => lines.push(`${new Date(end).toISOString()} ${container} ${words}`);
    if (ended.reason === 'OOMKilled') last('warn memory for the next grid: 412 MiB asked for');
    else if (ended.exitCode !== 0) last(`error ${ended.message ?? 'gives up'}`);
    else last('info done');
  }
  return lines.slice(-LINES_MOST);
}
