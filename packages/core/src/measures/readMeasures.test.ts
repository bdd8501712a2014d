import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parseMeasure } from './parse.ts';
import { circleIn, titlesRead } from './readMeasures.ts';

const reading = (...titles: string[]) =>
  titles.length === 0
    ? 'read x\n'
    : `${titles.map((title, i) => `b${i} = read measure "${title}"`).join('\n')}\nshow ${titles.map((_, i) => `b${i}`).join(' + ')}\n`;

describe('measures that read measures', () => {
  it('are named, each once, in bindings and alone', () => {
    const titles = (text: string) => {
      const read = parseMeasure(text);
      return 'body' in read ? titlesRead(read.body) : null;
    };
    expect(titles(reading('a', 'b', 'a'))).toEqual(['a', 'b']);
    expect(titles('read measure "a"\n  top 3')).toEqual(['a']);
    expect(titles('read a')).toEqual([]);
  });
  it('that read themselves in the end are a circle, told in order', () => {
    expect(circleIn(new Map([['a', reading('a')]]))).toEqual(['a', 'a']);
    const circle = circleIn(
      new Map([
        ['x', reading('a')],
        ['a', reading('b')],
        ['b', reading('c', 'd')],
        ['c', reading('a')],
      ]),
    );
    expect(circle).toHaveLength(4);
    expect(circle?.[0]).toBe(circle?.at(-1));
    expect(
      circleIn(
        new Map([
          ['a', reading('b', 'c')],
          ['b', reading('c')],
          ['c', reading('nobody')],
        ]),
      ),
    ).toBeNull();
  });
  it('are no circle where each reads only later ones, and are one as soon as a later one reads an earlier', () => {
    const name = (i: number) => `m${i}`;
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 30 }).chain((count) =>
          fc.record({
            edges: fc.array(fc.tuple(fc.nat(count - 1), fc.nat(count - 1)), { maxLength: 60 }),
            back: fc.tuple(fc.nat(count - 1), fc.nat(count - 1)),
            count: fc.constant(count),
          }),
        ),
        ({ edges, back: [a, b], count }) => {
          const later = edges.filter(([from, to]) => from < to);
          const texts = (more: readonly (readonly [number, number])[]) =>
            new Map(
              Array.from({ length: count }, (_, i) => [
                name(i),
                reading(...[...later, ...more].filter(([from]) => from === i).map(([, to]) => name(to))),
              ]),
            );
          expect(circleIn(texts([]))).toBeNull();
          const [low, high] = [Math.min(a, b), Math.max(a, b)];
          expect(
            circleIn(
              texts([
                [low, high],
                [high, low],
              ]),
            ),
          ).not.toBeNull();
        },
      ),
    );
  });
});
