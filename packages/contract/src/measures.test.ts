import { parseMeasure, printMeasure } from '@zetopsis/core/measures';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyBody } from '../../core/testing/bodies.ts';
import { MeasureBody } from './index.ts';

describe('the tree of a measure', () => {
  it('is let through as it is, also over the wire, whatever its text may be', () => {
    fc.assert(
      fc.property(anyBody, (body) => {
        expect(MeasureBody.parse(JSON.parse(JSON.stringify(body)))).toEqual(body);
        const read = parseMeasure(printMeasure(body));
        expect('body' in read && MeasureBody.safeParse(read.body).success).toBe(true);
      }),
      { numRuns: 300 },
    );
  });
  const number = (value: number) => ({ is: 'number', amount: { value, unit: null } });
  const shown = (expression: unknown) => ({ bindings: [], result: { is: 'show', expression, as: null } });
  it.each([
    ['a sign in a number', shown(number(-1))],
    ['what is no number', shown(number(Number.NaN))],
    ['a name with blanks', shown({ is: 'name', name: 'a b' })],
    ['a part that is not known', { ...shown(number(1)), more: 1 }],
    [
      'a comment of two lines',
      {
        bindings: [],
        result: { is: 'chain', chain: { source: { is: 'metric', name: 'x' }, steps: [] }, comments: ['a\nb'] },
      },
    ],
    [
      'a duration of nothing',
      {
        bindings: [],
        result: {
          is: 'chain',
          chain: {
            source: { is: 'metric', name: 'x' },
            steps: [{ step: 'earlier', by: { value: 0, unit: 'd' } }],
          },
        },
      },
    ],
  ])('%s is refused', (_what, body) => {
    expect(MeasureBody.safeParse(body).success).toBe(false);
  });
  it('nested deeper than anything that means something is refused, not run out of stack on', () => {
    let deep: unknown = number(1);
    for (let i = 0; i < 100_000; i++) deep = { is: 'minus', of: deep };
    expect(MeasureBody.safeParse(shown(deep)).error?.issues[0]?.message).toBe('nested too deep');
  });
});
