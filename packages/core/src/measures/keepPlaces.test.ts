import { describe, expect, it } from 'vitest';
import { builtIn, keepPlaces, parseMeasure } from './index.ts';

const eachOf = (text: string) => text.split('\n').filter((line) => line.includes('total'));

describe('a measure that keeps its places', () => {
  const place = { cluster: 'seaward', namespace: 'tides', workload: { kind: 'deployment', name: 'tide-model' } };
  it('is totalled for the place that it was narrowed to, each part alike', () => {
    const text = keepPlaces(builtIn('memory share of limit', place)!);
    expect(eachOf(text)).toEqual(Array(2).fill('  total for each cluster, k8s_namespace_name, workload, kind'));
    expect('body' in parseMeasure(text)).toBe(true);
    expect(eachOf(keepPlaces(builtIn('cpu', { cluster: 'seaward', node: 'n1' })!))).toEqual([
      '  total for each cluster, k8s_node_name',
    ]);
  });
  it('stays what it was where there is no place, no total, or parts are of different places', () => {
    for (const text of [
      builtIn('cpu', {})!,
      builtIn('ready of desired', place)!,
      'read boats_total\n  per second over 5m\n  total for each quay\n',
      'a = read x\n  where quay is "north"\n  total overall\nb = read y\n  total overall\nshow a / b\n',
      'raed x',
    ])
      expect(keepPlaces(text)).toBe(text);
  });
});
