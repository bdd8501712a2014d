import { expect, it } from 'vitest';
import { measuredBoxes, measuredLinks } from './mapMeasures.ts';

const box = (key: string) => {
  const [cluster = '', namespace = '', workload = ''] = key.split('/');
  return { key, cluster, namespace, name: workload.split(':').at(-1) ?? '' };
};
const boxes = ['seaward/quay/deployment:front', 'seaward/quay/stateful-set:front', 'seaward/pier/deployment:base'].map(
  box,
);
const line = (labels: Record<string, string>, ...values: (number | null)[]) => ({
  labels,
  name: null,
  unit: 'bytes',
  points: values.map((value, i): [number, number | null] => [i, value]),
});
type Boxes = Parameters<typeof measuredBoxes>[0];
type Links = Parameters<typeof measuredLinks>[0];
const at = { cluster: 'seaward', k8s_namespace_name: 'quay', workload: 'front' };

it('boxes show the last value of the line that names them; where no kind is told, all of that name', () => {
  const told = { shownAs: null, series: [line({ ...at, kind: 'deployment' }, 1024, 2048, null), line(at, 1024)] };
  // a part of a box is all that is needed here
  const shown = measuredBoxes({ boxes } as unknown as Boxes, told);
  expect([...shown]).toEqual([
    ['seaward/quay/deployment:front', '2.00 KiB'],
    ['seaward/quay/stateful-set:front', '1.00 KiB'],
  ]);
});

it('links show what names both ends, boxes what names one; others and what has no value show nothing', () => {
  const ends = (from: string, to: string) => ({
    from_cluster: 'seaward',
    from_namespace: 'quay',
    from_workload: from,
    to_cluster: 'seaward',
    to_namespace: 'pier',
    to_workload: to,
  });
  const key = 'seaward/quay/deployment:front → seaward/pier/deployment:base';
  const told = {
    shownAs: 'percent',
    series: [
      line(ends('deployment:front', 'deployment:base'), 0.25),
      line(ends('deployment:front', 'deployment:gone'), 1),
      line({}, 1),
    ],
  };
  expect([...measuredLinks({ links: [{ key }] } as unknown as Links, told)]).toEqual([[key, '25 %']]);
  const one = { to_cluster: 'seaward', to_namespace: 'pier', to_workload: 'deployment:base' };
  const answered = {
    shownAs: null,
    series: [line(one, 1), line({ ...one, protocol: 'http' }, 3), line({ ...one, protocol: 'rpc' }, null)],
  };
  expect([...measuredBoxes({ boxes } as unknown as Boxes, answered)]).toEqual([
    ['seaward/pier/deployment:base', '3 B'],
  ]);
});
