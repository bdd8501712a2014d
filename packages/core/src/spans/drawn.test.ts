import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { shiftsOf } from './drawn.ts';
import type { Span } from './span.ts';

type Step = Pick<Span, 'spanId' | 'parentId' | 'kind' | 'at' | 'took'>;
const step = (spanId: string, parentId: string, kind: Span['kind'], at: number, took: number): Step => ({
  spanId,
  parentId,
  kind,
  at,
  took,
});

describe('steps whose clocks do not agree', () => {
  it('stand in the middle of who called them, with all below them', () => {
    const shifts = shiftsOf([
      step('a', '', 'client', 1000, 100),
      step('b', 'a', 'server', 5000, 60),
      step('c', 'b', 'internal', 5010, 20),
      step('d', 'b', 'client', 5030, 20),
      step('e', 'd', 'server', 5032, 10),
    ]);
    expect([...shifts].sort()).toEqual([
      ['b', -3980],
      ['c', -3980],
      ['d', -3980],
      ['e', -3980],
    ]);
  });
  it('are left where they are within their caller, and where nobody waits for them', () => {
    expect(
      shiftsOf([
        step('a', '', 'client', 1000, 100),
        step('b', 'a', 'server', 1010, 80),
        step('p', '', 'producer', 1000, 5),
        step('q', 'p', 'consumer', 9000, 5),
        step('o', 'gone', 'server', 7, 5),
      ]).size,
    ).toBe(0);
  });
  it('end, whatever names whom as its parent', () => {
    const id = fc.constantFrom('a', 'b', 'c', 'd', '');
    const any = fc.record({
      spanId: id,
      parentId: id,
      kind: fc.constantFrom<Span['kind']>('client', 'server', 'internal'),
      at: fc.integer({ min: 0, max: 1000 }),
      took: fc.integer({ min: 0, max: 1000 }),
    });
    fc.assert(
      fc.property(fc.array(any, { maxLength: 12 }), (steps) => {
        for (const shift of shiftsOf(steps).values()) expect(Number.isFinite(shift)).toBe(true);
      }),
    );
  });
  it('lie within their callers once moved, however far their clock is off, as far as they are no longer', () => {
    const skew = fc.integer({ min: -1e7, max: 1e7 });
    fc.assert(
      fc.property(skew, fc.nat(90), fc.nat(90), (off, took, begins) => {
        const inside = Math.min(took, 100 - begins);
        const called = step('a', '', 'client', 1000, 100);
        const answers = step('b', 'a', 'server', 1000 + begins + off, inside);
        const at = answers.at + (shiftsOf([called, answers]).get('b') ?? 0);
        expect(at).toBeGreaterThanOrEqual(called.at - 0.5);
        expect(at + inside).toBeLessThanOrEqual(called.at + 100.5);
      }),
    );
  });
});
