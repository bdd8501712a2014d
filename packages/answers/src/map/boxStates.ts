import type { MapAnswer, MapBox } from '@zetopsis/contract';
import { isOfLinks } from '@zetopsis/core/findings';
import type { EpochMs } from '@zetopsis/core/units';
import type { SeenUsage } from '../usage/index.ts';

/** How a workload stands: what is found wrong with it first, and how near it is to its limits. */
export type BoxState = Pick<MapBox, 'severity' | 'finding' | 'besides' | 'cpu' | 'memory' | 'holds'>;
export const NO_STATE: BoxState = {
  severity: null,
  finding: null,
  besides: null,
  cpu: null,
  memory: null,
  holds: null,
};

/** Of every workload of a cluster that somebody may see, by what boxes of the map are called; some at a time. */
export function* boxStatesBySteps(usage: SeenUsage, at: EpochMs): Generator<void, Map<string, BoxState>> {
  const states = new Map<string, BoxState>();
  const keyOf = (namespace: string, workload: string) => `${usage.name}/${namespace}/${workload}`;
  for (const namespace of usage.tree.children) {
    for (const { key, usage: own, children } of namespace.children)
      states.set(keyOf(namespace.key, key), {
        ...NO_STATE,
        cpu: own.cpu.tightness,
        memory: own.memory.tightness,
        holds: children.length,
      });
    yield;
  }
  for (const { workload, key, findings } of usage.details.findings(usage, at).workloads) {
    const [first] = findings;
    const place = keyOf(workload.namespace ?? '', key);
    if (first)
      states.set(place, {
        ...(states.get(place) ?? NO_STATE),
        severity: first.severity,
        finding: first.reason,
        besides: findings.find(({ code }) => !isOfLinks(code))?.reason ?? null,
      });
  }
  return states;
}
/** The map with how its boxes stand. */
export const withStates = (answer: MapAnswer, states: ReadonlyMap<string, BoxState>): MapAnswer => ({
  ...answer,
  boxes: answer.boxes.map((box) => ({ ...box, ...states.get(box.key) })),
});
