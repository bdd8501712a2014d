import { describe, expect, it } from 'vitest';
import { EXAMPLES } from './examples.ts';
import { parseMeasure } from './parse.ts';
import { withStep } from './withStep.ts';

const bodyOf = (text: string) => {
  const read = parseMeasure(text);
  if (!('body' in read)) throw new Error(read.problem.text);
  return read.body;
};
describe('a measure with one more step', () => {
  it('can be read again for every example, and ends with the step', () => {
    for (const { text } of EXAMPLES) {
      const more = bodyOf(withStep(bodyOf(text), 'usual from 14d'));
      const { result, bindings } = more;
      const chain = result.is === 'chain' ? result.chain : bindings.at(-1)!.chain;
      expect(chain.steps.at(-1), text).toMatchObject({ step: 'usual' });
    }
  });
  it('names what was shown by a name that is free', () => {
    const text = 'asked = read a\nasked2 = read b\nshow asked / asked2 as percent\n';
    expect(withStep(bodyOf(text), 'time until 100% from 3d')).toBe(
      'asked = read a\nasked2 = read b\nasked3 = from asked / asked2\n  time until 100% from 3d\nshow asked3\n',
    );
  });
  it('is itself with a step behind it where it is one chain', () => {
    expect(withStep(bodyOf('read a\n  total overall'), 'usual from 7d')).toBe(
      'read a\n  total overall\n  usual from 7d\n',
    );
  });
});
