import { amount } from './controllers.ts';
import type { Inhabited } from './inhabited.ts';
import type { Readings } from './readings.ts';
import { MINUTE } from './scenario/index.ts';

/** Autoscalers say what they see: the CPU that their pods used over the last minute, % of what these ask for. */
export function scalersSee(world: Inhabited, readings: Readings, at: number): void {
  for (const { namespace, name } of world.options.plan.scalers) {
    let used = 0;
    let asked = 0;
    for (const pod of world.podsOf(namespace, name)) {
      for (const container of readings.containersOf(pod))
        used += (readings.cpuSeconds(container, at) - readings.cpuSeconds(container, at - MINUTE)) / 60;
      for (const { resources } of pod['spec'].containers) asked += amount(resources?.requests?.cpu);
    }
    world.change('horizontalpodautoscalers', namespace, name, at, (scaler) => {
      const current = { averageUtilization: asked === 0 ? 0 : Math.round((used / asked) * 100) };
      scaler['status'].currentMetrics = [{ type: 'Resource', resource: { name: 'cpu', current } }];
    });
  }
}
