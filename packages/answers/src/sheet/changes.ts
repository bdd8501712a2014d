import type { SheetAnswer } from '@zetopsis/contract';
import { wantedPods } from '@zetopsis/core/findings';
import { formatPercent } from '@zetopsis/core/format';
import type { UsageNode } from '@zetopsis/core/usage';
import type { Accessory } from './accessories.ts';
import type { MeasuredObject } from './measured.ts';
import { claimChange, limitChange, quotaChange, requestChange, scalerChange } from './wire-names.ts';

const MIB = 2 ** 20;
const memoryText = (bytes: number): string => `${Math.ceil(bytes / MIB / 16) * 16}Mi`;
const cpuText = (cores: number): string => `${Math.max(10, Math.ceil((cores * 1000) / 10) * 10)}m`;
/** Above what was used 95 % of the time. */
const ROOM = 1.25;
const LITTLE = 0.5;

/** What one would change of a workload, as far as what was measured tells it; nothing where it tells nothing. */
export function changesOf({ level, node, findings, pods, workload }: MeasuredObject): SheetAnswer['changes'] {
  // a replica set is made by its deployment: one changes that
  if (level !== 'workload' || workload?.kind === 'replica set') return [];
  const changes: SheetAnswer['changes'] = [];
  const [pod] = pods;
  if (findings.some(({ code, reason }) => code === 'outOfMemory' || /out of memory/.test(reason)))
    for (const { name, memoryLimit } of pod?.containers ?? []) {
      const peak = mostOf(node, name, 'memory');
      if (memoryLimit === null || peak === null || peak < memoryLimit * 0.8) continue;
      changes.push({
        title: `more memory for ${name}: half as much again. It helps against load; a leak only takes longer`,
        text: limitChange(name, memoryText(memoryLimit * 1.5)),
      });
    }
  for (const own of pod?.containers ?? []) {
    if (own.role === 'start-up') continue;
    const cpu = less(own.cpuRequest, mostOf(node, own.name, 'cpu'), 0.25);
    const memory = less(own.memoryRequest, mostOf(node, own.name, 'memory'), 256 * MIB);
    if (cpu === null && memory === null) continue;
    const used = [
      cpu === null ? '' : `CPU ${formatPercent(mostOf(node, own.name, 'cpu')! / own.cpuRequest!)}`,
      memory === null ? '' : `memory ${formatPercent(mostOf(node, own.name, 'memory')! / own.memoryRequest!)}`,
    ].filter((part) => part !== '');
    changes.push({
      title: `smaller requests for ${own.name}: a quarter more than it used 95 % of the window (of what it asks for, ${used.join(', ')})`,
      text: requestChange(own.name, {
        ...(cpu === null ? {} : { cpu: cpuText(cpu) }),
        ...(memory === null ? {} : { memory: memoryText(memory) }),
      }),
    });
  }
  return changes;
}
/** A smaller request, where one is worth while. */
function less(request: number | null, peak: number | null, worth: number): number | null {
  if (request === null || peak === null || peak > request * LITTLE || request - peak * ROOM < worth) return null;
  return peak * ROOM;
}
/** The most of a container's pods that were there. */
function mostOf(workload: UsageNode, container: string, resource: 'cpu' | 'memory'): number | null {
  const peaks = workload.children.flatMap((pod) =>
    pod.children.filter(({ key }) => key === container).flatMap(({ usage }) => usage[resource].peak ?? []),
  );
  return peaks.length === 0 ? null : Math.max(...peaks);
}

/** Of a quota, an autoscaler, a claim. */
export function changesOfAccessory({ object, findings }: Accessory): SheetAnswer['changes'] {
  if (findings.length === 0) return [];
  if (object.kind === 'autoscaler') {
    if (!findings.some(({ code }) => code === 'atMost')) return [];
    const wanted = wantedPods(object);
    return wanted
      ? [{ title: `${wanted.pods} pods at most, as its own arithmetic would take`, text: scalerChange(wanted.pods) }]
      : [{ title: 'a quarter more pods at most', text: scalerChange(Math.ceil(object.most * 1.25)) }];
  }
  if (object.kind === 'quota')
    return object.rows
      .filter(({ hard, used }) => used !== null && hard > 0 && used / hard >= 0.9)
      .map(({ resource, hard }) => ({
        title: `a fifth more of ${resource}`,
        text: quotaChange(
          resource,
          /memory|storage/.test(resource) ? memoryText(hard * 1.2) : String(Math.ceil(hard * 1.2)),
        ),
      }));
  if (object.kind === 'volume claim' && object.capacity !== null)
    return [
      {
        title: 'half as much room again, if its storage class can grow',
        text: claimChange(`${Math.ceil((object.capacity * 1.5) / 2 ** 30)}Gi`),
      },
    ];
  return [];
}
