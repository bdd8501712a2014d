import { describe, expect, it } from 'vitest';
import type { SeenUsage } from '../usage/index.ts';
import { placeOfPods } from './sheetMeasures.ts';

type Shown = SeenUsage['view']['pods'][number];
const pod = (uid: string, name: string, kind: 'deployment' | 'stateful set' = 'deployment', namespace = 'quays') =>
  ({ pod: { uid }, workload: { namespace, kind, name } }) as Shown; // what is looked at of it
const usage = (...pods: Shown[]) => ({ name: 'seaward', view: { pods } as unknown as SeenUsage['view'] });

describe('where pods stand', () => {
  const [a, b, other] = [pod('1', 'front'), pod('2', 'front'), pod('3', 'ledger', 'stateful set')];
  it('is their workload, where they are all of its pods', () => {
    expect(placeOfPods(usage(a, b, other), [b.pod, a.pod])).toEqual({
      cluster: 'seaward',
      namespace: 'quays',
      workload: { kind: 'deployment', name: 'front' },
    });
  });
  it('is none that can be named where they are some of its pods, of several, or none', () => {
    expect(placeOfPods(usage(a, b), [a.pod])).toBeNull();
    expect(placeOfPods(usage(a, b, other), [a.pod, b.pod, other.pod])).toBeNull();
    expect(placeOfPods(usage(a), [])).toBeNull();
    // another one of the same name
    expect(placeOfPods(usage(a, pod('4', 'front', 'stateful set')), [a.pod])).not.toBeNull();
    expect(placeOfPods(usage(a, pod('5', 'front', 'deployment', 'tides')), [a.pod])).not.toBeNull();
  });
});
