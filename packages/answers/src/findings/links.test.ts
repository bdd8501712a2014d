import type { TroubledLink } from '@zetopsis/core/findings';
import type { LinkState, Side } from '@zetopsis/core/links';
import { describe, expect, it } from 'vitest';
import { linksAtTheirEnds } from './links.ts';

const end = (name: string, namespace = 'quay', cluster = 'seaward') => ({
  cluster,
  namespace,
  workload: `deployment:${name}`,
});
const OUTSIDE = { cluster: '', namespace: '', workload: 'outside' };
const link = (state: LinkState, side: Side, more: Partial<TroubledLink> = {}): TroubledLink => ({
  from: end('front'),
  to: end('base', 'mole'),
  state,
  by: 'requests',
  side,
  now: 0.6,
  usual: 0.01,
  since: 1000,
  evidence: ['attempts reached nobody'],
  inside: 0,
  ...more,
});
const told = (links: TroubledLink[], sees = (_: string) => true) => [...linksAtTheirEnds(links, 'seaward', sees)];

describe('a link in trouble', () => {
  it.each([
    ['refused', 'answerer', 'mole/deployment:base', 'front cannot reach it: 60 % of the attempts are refused.'],
    ['refused', 'caller', 'quay/deployment:front', 'It cannot reach base: 60 % of its attempts are refused.'],
    ['silent', 'caller', 'quay/deployment:front', 'It sends nothing to base any more, usually 0.01 per s.'],
    ['failing', 'answerer', 'mole/deployment:base', '60 % of what front asks of it fails.'],
    ['failing', 'between', 'mole/deployment:base', '60 % of what front asks of it fails.'],
    [
      'slow',
      'answerer',
      'mole/deployment:base',
      'front waits for it: 95 % of the requests stay below 600 ms, usually below 10 ms.',
    ],
    ['flooded', 'caller', 'quay/deployment:front', 'It sends base 0.60 per s, usually 0.01 per s.'],
  ] as const)('that is %s, by its %s, stands at %s', (state, side, place, reason) => {
    const [[at, findings] = ['', []], ...more] = told([link(state, side)]);
    expect(more).toEqual([]);
    expect(at).toBe(place);
    expect(findings).toEqual([expect.objectContaining({ reason, since: 1000 })]);
  });
  it('stands at the other end where the one that it comes from is nobody in a cluster', () => {
    const [[at, findings] = ['', []]] = told([link('flooded', 'caller', { from: OUTSIDE })]);
    expect(at).toBe('mole/deployment:base');
    expect(findings[0]!.reason).toMatch(/^Somebody outside sends it/);
    expect(told([link('failing', 'answerer', { from: OUTSIDE, to: OUTSIDE })])).toEqual([]);
  });
  it('names the other end only to who may see it, and never one of another cluster', () => {
    const [[, [seen] = []] = ['', []]] = told([link('failing', 'answerer')]);
    expect(seen).toMatchObject({
      reason: expect.stringContaining('front'),
      unnamed: expect.not.stringContaining('front'),
    });
    const [[, [hidden] = []] = ['', []]] = told([link('failing', 'answerer')], (namespace) => namespace === 'mole');
    expect(JSON.stringify(hidden)).not.toContain('front');
    const [[, [far] = []] = ['', []]] = told([link('failing', 'answerer', { from: end('front', 'quay', 'landward') })]);
    expect(JSON.stringify(far)).not.toMatch(/front|landward/);
    expect(told([link('failing', 'answerer')], () => false)).toEqual([]);
  });
  it('is critical where most of it ends in nothing, and says what it takes with it', () => {
    const [[, [most] = []] = ['', []]] = told([link('refused', 'answerer', { inside: 3 })]);
    expect(most).toMatchObject({
      severity: 'critical',
      evidence:
        'attempts reached nobody; 3 more links in trouble because of it; over the last 5 min 60 %, usually 1.0 %',
    });
    const [[, [some] = []] = ['', []]] = told([link('refused', 'answerer', { now: 0.2 })]);
    expect(some!.severity).toBe('warning');
  });
});
