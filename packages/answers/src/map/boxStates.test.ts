import type { MapAnswer } from '@zetopsis/contract';
import { toTheEnd } from '@zetopsis/core/steps';
import { describe, expect, it } from 'vitest';
import { CASES, NOW } from '../../testing/fixtures/index.ts';
import { usageOfFixture } from '../fixture/index.ts';
import { boxStatesBySteps, NO_STATE, withStates } from './boxStates.ts';

describe('how boxes of the map stand', () => {
  it.each(CASES.map((one) => [one.name, one] as const))('is what is found of their workload: %s', (_name, one) => {
    const usage = usageOfFixture({ now: new Date(NOW).toISOString(), objects: one.objects, usage: one.usage ?? [] });
    const states = toTheEnd(boxStatesBySteps(usage, NOW));
    const { workloads } = usage.details.findings(usage, NOW);
    for (const { workload, key, findings } of workloads) {
      const own = states.get(`${usage.name}/${workload.namespace}/${key}`) ?? NO_STATE;
      expect([own.severity, own.finding]).toEqual([findings[0]?.severity ?? null, findings[0]?.reason ?? null]);
      const others = findings.filter(({ code }) => !code.startsWith('link')).map(({ reason }) => reason);
      expect(own.besides).toBe(others[0] ?? null);
    }
  });
  it('is nothing of whoever is no workload', () => {
    const box = { key: '//outside', name: 'outside', ...NO_STATE };
    const answer = { boxes: [box] } as unknown as MapAnswer; // as far as it is looked at
    expect(withStates(answer, new Map([['a/b/c', { ...NO_STATE, cpu: 1 }]])).boxes).toEqual([box]);
  });
});
