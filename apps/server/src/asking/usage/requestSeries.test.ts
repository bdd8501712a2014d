import type { PodObject } from '@zetopsis/core/inventory';
import { MINUTE } from '@zetopsis/core/units';
import { expect, it } from 'vitest';
import { podsBy } from './podsBy.ts';
import { RequestSeries } from './requestSeries.service.ts';

const START = 1_790_000_000_000;
const slots = { start: START, length: 5 * MINUTE, count: 3 };
const pod = (name: string, more: object = {}) =>
  ({
    uid: `uid-${name}`,
    name,
    namespace: 'quay',
    phase: 'running',
    createdAt: START - MINUTE,
    conditions: [{ type: 'Ready', status: 'true' }],
    ...more,
    // a part of a pod is all that is looked at
  }) as unknown as PodObject;
/** A counter that is read every minute and grows so much a minute, from so many minutes after the first slot began on. */
const counter = (perMinute: number, since = -10) => {
  const times = Array.from({ length: 26 }, (_, i) => START + (i - 10) * MINUTE).filter(
    (at) => at >= START + since * MINUTE,
  );
  return { times: Float64Array.from(times), values: Float64Array.from(times, (_, i) => 1000 + i * perMinute) };
};

it('what each pod answered is counted slot by slot, over all of its series; who is young, not ready or unknown has no part', () => {
  const series = [
    { labels: { k8s_pod_uid: 'uid-a', path: 'x' }, samples: counter(10) },
    { labels: { k8s_pod_uid: 'uid-a', path: 'y' }, samples: counter(2) },
    { labels: { k8s_namespace_name: 'quay', k8s_pod_name: 'b' }, samples: counter(7, 6) },
    { labels: { k8s_pod_uid: 'uid-young' }, samples: counter(50) },
    { labels: { k8s_pod_uid: 'uid-failing' }, samples: counter(50) },
    { labels: { k8s_namespace_name: 'pier', k8s_pod_name: 'b' }, samples: counter(50) },
  ];
  const service = new RequestSeries(
    { recent: (id: number) => series[id]!.samples } as never,
    { table: { labels: (id: number) => Object.entries(series[id]!.labels) } } as never,
    {} as never,
  );
  const podOf = podsBy([
    pod('a'),
    pod('b'),
    pod('young', { createdAt: START + 1 }),
    pod('failing', { conditions: [{ type: 'Ready', status: 'false' }] }),
  ]);
  const told = {
    source: { count: 'requests', tellsFailures: false, buckets: null, factor: 1 },
    ids: new Map([['requests', series.map((_, id) => id as never)]]),
  };
  const spread = service.spread(told, { slots, podOf });
  expect(spread.map(({ pod: name, requests }) => [name, ...requests])).toEqual([
    ['a', 60, 60, 60],
    // it began to tell within the second slot: its first value is where one begins
    ['b', Number.NaN, 28, 35],
  ]);
});
