import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { originOf, type PodThen, podNamedBy, streamOf } from './origin.ts';
import { RESOURCE } from './wire-names.ts';

const POD: PodThen = {
  namespace: 'tides',
  name: 'gauge-0',
  workload: { kind: 'stateful set', name: 'gauge' },
  node: 'seaward-01',
  containers: ['gauge', 'forwarder'],
};
const of = (attributes: Record<string, string>) => new Map(Object.entries(attributes));
const SEAWARD = { cluster: 'seaward', namespace: null };

describe('what a record comes from', () => {
  it('is the pod that it names, with its workload, node and container', () => {
    const attributes = of({ [RESOURCE.podUid]: 'u', [RESOURCE.container]: 'gauge', [RESOURCE.service]: 'gauge' });
    expect(podNamedBy(attributes, SEAWARD)).toEqual({ uid: 'u', namespace: null, name: null });
    const origin = originOf(attributes, SEAWARD, { pod: POD, nodeKnown: false });
    expect(origin).toMatchObject({
      namespace: 'tides',
      pod: 'gauge-0',
      container: 'gauge',
      node: 'seaward-01',
      untied: null,
    });
    expect(streamOf(origin)).toEqual({ cluster: 'seaward', namespace: 'tides', kind: 'stateful set', name: 'gauge' });
  });
  it('has no container where several may be meant and none of them is named', () => {
    for (const named of [{}, { [RESOURCE.container]: 'other' }])
      expect(originOf(of(named), SEAWARD, { pod: POD, nodeKnown: false }).container).toBeNull();
    expect(originOf(of({}), SEAWARD, { pod: { ...POD, containers: ['a'] }, nodeKnown: false }).container).toBe('a');
  });
  it('is a node where no pod is named, and only for a key of the whole cluster', () => {
    const attributes = of({ [RESOURCE.node]: 'seaward-01', [RESOURCE.service]: 'node-agent' });
    const found = { pod: null, nodeKnown: true };
    expect(streamOf(originOf(attributes, SEAWARD, found))).toMatchObject({ kind: 'node', name: 'seaward-01' });
    expect(streamOf(originOf(attributes, { ...SEAWARD, namespace: 'tides' }, found))).toMatchObject({
      kind: 'service',
      namespace: 'tides',
    });
    expect(streamOf(originOf(attributes, SEAWARD, { ...found, nodeKnown: false }))).toMatchObject({ kind: 'service' });
  });
  it('says why it is not tied', () => {
    const pod = of({ [RESOURCE.pod]: 'gauge-0', [RESOURCE.namespace]: 'tides' });
    const untied = (
      attributes: ReadonlyMap<string, string>,
      key: { cluster: string | null; namespace: string | null },
      found: PodThen | null,
    ) => originOf(attributes, key, { pod: found, nodeKnown: false }).untied;
    expect(untied(pod, { cluster: null, namespace: null }, null)).toBe('key of no cluster');
    expect(untied(of({ [RESOURCE.host]: 'pier-2' }), { cluster: null, namespace: null }, null)).toBeNull();
    expect(untied(of({}), SEAWARD, null)).toBe('no pod named');
    expect(untied(pod, SEAWARD, null)).toBe('pod not known');
    expect(untied(pod, { cluster: 'seaward', namespace: 'customs' }, POD)).toBe('other namespace');
  });
  it('never stands in another cluster or namespace than the key speaks for', () => {
    const text = fc.constantFrom('', 'tides', 'customs', 'seaward', 'gauge-0', 'u', 'seaward-01');
    fc.assert(
      fc.property(
        fc.record(Object.fromEntries(Object.values(RESOURCE).map((name) => [name, text]))),
        fc.constantFrom(null, POD),
        fc.boolean(),
        fc.constantFrom(null, 'seaward'),
        fc.constantFrom(null, 'customs'),
        (attributes, pod, nodeKnown, cluster, namespace) => {
          const key = { cluster, namespace: cluster === null ? null : namespace };
          const stream = streamOf(originOf(of(attributes), key, { pod, nodeKnown }));
          expect(stream.cluster).toBe(cluster);
          if (key.namespace !== null) expect(stream.namespace).toBe(key.namespace);
        },
      ),
    );
  });
});
