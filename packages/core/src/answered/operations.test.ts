import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type OperationTold, operationsOf } from './operations.ts';

const BOUNDS = [0.1, 0.5, 1, Number.POSITIVE_INFINITY];
/** Requests of an operation at a pod, each so many seconds long. */
function asked(
  operation: string,
  pod: string,
  seconds: readonly number[],
  more: Partial<OperationTold> & { readonly fails?: number } = {},
): OperationTold[] {
  const { fails = 0, ...own } = more;
  const base = { operation, pod, version: '1.0', cold: false, browser: false, ...own };
  return [
    { ...base, failed: false, bound: null, grown: seconds.length - fails },
    { ...base, failed: true, bound: null, grown: fails },
    ...BOUNDS.map((bound) => ({
      ...base,
      failed: null,
      bound,
      grown: seconds.filter((one) => one <= bound).length,
    })),
  ];
}
const times = (count: number, seconds: number) => new Array<number>(count).fill(seconds);

describe('operations', () => {
  it('are told each with its failures, lengths and satisfaction, the most frequent first', () => {
    const { all, operations } = operationsOf(
      [
        ...asked('book a seat', 'a', times(90, 0.05), { fails: 9 }),
        ...asked('book a seat', 'b', times(10, 0.8)),
        ...asked('list', 'a', times(300, 0.01)),
        ...asked('never', 'a', []),
      ],
      0.1,
    );
    expect(operations.map(({ operation, requests }) => [operation, requests])).toEqual([
      ['list', 300],
      ['book a seat', 100],
    ]);
    const book = operations[1]!;
    expect(book.failedShare).toBeCloseTo(0.09, 9);
    expect(book.half).toBeLessThan(0.1);
    expect(book.nearlyAll).toBeCloseTo(0.75, 9);
    // 90 within, none of the rest within four times as long
    expect(book.satisfaction).toBeCloseTo(0.9, 9);
    expect(all.requests).toBe(400);
  });
  it('tell first answers of a program and browsers apart, and figures by pod and version', () => {
    const { operations, versions, pods } = operationsOf(
      [
        ...asked('list', 'a', times(10, 0.2), { cold: true, version: '1.1' }),
        ...asked('list', 'a', times(30, 0.02), { version: '1.1' }),
        ...asked('list', 'b', times(20, 0.02), { browser: true }),
      ],
      0.1,
    );
    expect(operations).toMatchObject([{ operation: 'list', requests: 60, cold: 10, browsers: 20 }]);
    expect(versions.map(({ version, requests, pods: own }) => [version, requests, own])).toEqual([
      ['1.1', 40, 1],
      ['1.0', 20, 1],
    ]);
    expect(pods.map(({ pod, requests }) => [pod, requests])).toEqual([
      ['a', 40],
      ['b', 20],
    ]);
  });
  it('say where one pod gets far more than its part, of enough to tell', () => {
    const spread = (...counts: number[]) =>
      operationsOf(
        counts.flatMap((count, i) => asked('list', `pod-${i}`, times(count, 0.01))),
        0.1,
      ).uneven;
    expect(spread(700, 100, 100, 100)).toEqual({ pod: 'pod-0', times: 2.8 });
    expect(spread(300, 250, 200, 250)).toBeNull();
    expect(spread(7, 1, 1, 1)).toBeNull();
    expect(spread(1000)).toBeNull();
  });
  it('count every request once, however it is grouped', () => {
    const one = fc.record({
      operation: fc.constantFrom('a', 'b', 'c'),
      pod: fc.constantFrom('p', 'q'),
      version: fc.constantFrom('1', '2'),
      count: fc.nat(40),
    });
    fc.assert(
      fc.property(fc.array(one, { maxLength: 12 }), (all) => {
        const told = operationsOf(
          all.flatMap(({ operation, pod, version, count }) => asked(operation, pod, times(count, 0.3), { version })),
          0.1,
        );
        const sum = (list: readonly { readonly requests: number }[]) =>
          list.reduce((whole, { requests }) => whole + requests, 0);
        const whole = all.reduce((total, { count }) => total + count, 0);
        expect([told.all.requests, sum(told.operations), sum(told.pods), sum(told.versions)]).toEqual([
          whole,
          whole,
          whole,
          whole,
        ]);
      }),
    );
  });
});
