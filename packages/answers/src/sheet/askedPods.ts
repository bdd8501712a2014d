import type { ObjectPath } from '@zetopsis/contract';
import type { PodObject } from '@zetopsis/core/inventory';
import { ClusterColumns } from '../columns/index.ts';
import type { SeenUsage } from '../usage/index.ts';
import { behind, findAccessory } from './accessories.ts';
import { find } from './measured.ts';
import { scaledPods } from './scaledFlows.ts';

/** Pods that answer for an object: its own, or those behind a service or under an autoscaler; none of what answers nothing. */
export function askedPods(usage: SeenUsage, path: ObjectPath, to: number): readonly PodObject[] {
  const thing = findAccessory({ usage, path, other: null, telling: { at: to, zone: 'UTC' } });
  if (thing?.object.kind === 'service') return behind(usage, thing.object);
  if (thing?.object.kind === 'autoscaler') return scaledPods(usage, thing.object);
  if (thing) return [];
  const found = find({ usage, columns: new ClusterColumns(usage, to), path, to });
  return found && (found.level === 'pod' || found.level === 'workload') ? found.pods : [];
}
