import type { SheetAnswer } from '@zetopsis/contract';
import { formatDuration } from '@zetopsis/core/format';
import type { WorkloadObject } from '@zetopsis/core/inventory';
import { type EpochMs, SECOND } from '@zetopsis/core/units';
import { gridEnd, levelOnGrid } from '@zetopsis/core/usage';
import type { SeenUsage } from '../usage/index.ts';

/** What stands at the head of a sheet, a name and a text each. */
export type Facts = SheetAnswer['facts'];

/** Containers that last, of the pods that are there at the window's end, by their state. */
export function containerFacts(pods: SeenUsage['view']['pods'], end: EpochMs): Facts {
  const count = { running: 0, waiting: 0, ended: 0, unknown: 0 };
  for (const { pod, to } of pods) {
    if (to !== null && to <= end) continue;
    for (const { role, state } of pod.containers) if (role !== 'start-up') count[state.is]++;
  }
  const text = [
    `${count.running} run`,
    count.waiting > 0 && `${count.waiting} wait`,
    count.ended > 0 && `${count.ended} ended`,
    count.unknown > 0 && `${count.unknown} unknown`,
  ].filter((part) => part !== false);
  return [{ name: 'containers', text: text.join(', ') }];
}

/** Of a replica set: what made it, which of its versions it is. */
export const setFacts = ({ owner, revision, ready, desired }: WorkloadObject): Facts => [
  { name: 'made by', text: `${owner?.kind ?? ''} ${owner?.name ?? ''}` },
  ...(revision === null ? [] : [{ name: 'revision', text: revision }]),
  { name: 'ready', text: `${ready} of ${desired}` },
];

/** Since when a node is up, as it says itself at the window's end. */
export function upFor({ grid, interval, nodeSamples }: SeenUsage['input'], node: string): Facts {
  const end = { start: gridEnd(grid), step: grid.step, count: 1 };
  const seconds = levelOnGrid([nodeSamples('node.uptime', node)], end, interval)[0] ?? Number.NaN;
  return Number.isNaN(seconds) ? [] : [{ name: 'up for', text: formatDuration(seconds * SECOND) }];
}

/** Where it is reached within its cluster; a node with the port of its own page. */
export const addressWords = (address: string | null, port: number | null): string =>
  address === null ? 'none yet' : port === null ? address : `${address} · page at port ${port}`;
