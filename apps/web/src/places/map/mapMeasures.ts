import type { MapAnswer, MeasureAnswer } from '@zetopsis/contract';
import { valueWords } from '@zetopsis/core/measures';

type Told = Pick<MeasureAnswer, 'series' | 'shownAs'>;
type Labels = Readonly<Record<string, string>>;
/** Values of a measure on what they are of, in words: by the key of a box or of a link. */
export type Measured = ReadonlyMap<string, string>;

/** The last value of each line at the box that its labels name; of several at one box the highest. */
export function measuredBoxes({ boxes }: Pick<MapAnswer, 'boxes'>, told: Told): Measured {
  const byName = new Map<string, string[]>();
  for (const { key, cluster, namespace, name } of boxes) {
    const place = JSON.stringify([cluster, namespace, name]);
    byName.set(place, [...(byName.get(place) ?? []), key]);
  }
  const known = new Set(boxes.map(({ key }) => key));
  return highest(told, (labels) => {
    const { cluster = '', k8s_namespace_name: namespace = '', workload, kind } = labels;
    if (workload !== undefined) {
      const exact = `${cluster}/${namespace}/${kind}:${workload}`;
      return known.has(exact) ? [exact] : (byName.get(JSON.stringify([cluster, namespace, workload])) ?? []);
    }
    // of links of which one end alone is named
    return [endOf(labels, 'to') ?? endOf(labels, 'from')].filter((key) => key !== null && known.has(key)) as string[]; // those are left
  });
}
/** The same of links: labels name both ends. */
export function measuredLinks({ links }: Pick<MapAnswer, 'links'>, told: Told): Measured {
  const known = new Set(links.map(({ key }) => key));
  return highest(told, (labels) => {
    const key = `${endOf(labels, 'from')} → ${endOf(labels, 'to')}`;
    return known.has(key) ? [key] : [];
  });
}
function endOf(labels: Labels, side: 'from' | 'to'): string | null {
  const workload = labels[`${side}_workload`];
  return workload === undefined
    ? null
    : `${labels[`${side}_cluster`] ?? ''}/${labels[`${side}_namespace`] ?? ''}/${workload}`;
}
function highest({ series, shownAs }: Told, keysOf: (labels: Labels) => readonly string[]): Measured {
  const values = new Map<string, { readonly value: number; readonly unit: string }>();
  for (const { labels, points, unit } of series) {
    const value = points.findLast(([, own]) => own !== null)?.[1];
    if (value === null || value === undefined) continue;
    for (const key of keysOf(labels))
      if (!((values.get(key)?.value ?? Number.NEGATIVE_INFINITY) >= value)) values.set(key, { value, unit });
  }
  return new Map([...values].map(([key, { value, unit }]) => [key, valueWords(value, unit, shownAs)]));
}
