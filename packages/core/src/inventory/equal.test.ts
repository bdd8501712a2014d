import fc from 'fast-check';
import { expect, it } from 'vitest';
import { equal } from './equal.ts';
import { readObject } from './index.ts';
import { sameState } from './versions.ts';

/** The same with every object's fields the other way round, as it may come back from a database. */
const turned = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(turned)
    : typeof value === 'object' && value !== null
      ? Object.fromEntries(
          Object.entries(value)
            .reverse()
            .map(([key, inner]) => [key, turned(inner)]),
        )
      : value;

it('values are equal in whatever order their fields stand, and only then', () => {
  fc.assert(
    fc.property(fc.jsonValue(), fc.jsonValue(), (a, b) => {
      expect(equal(a, turned(a))).toBe(true);
      expect(equal(a, b)).toBe(JSON.stringify(sorted(a)) === JSON.stringify(sorted(b)));
    }),
  );
  expect(equal({ a: 1 }, { a: 1, b: undefined })).toBe(true);
  expect(equal({ a: 1 }, { a: 1, b: null })).toBe(false);
});
const sorted = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(sorted)
    : typeof value === 'object' && value !== null
      ? Object.fromEntries(
          Object.entries(value)
            .sort(([a], [b]) => (a < b ? -1 : 1))
            .map(([key, inner]) => [key, sorted(inner)]),
        )
      : Object.is(value, -0)
        ? 'minus zero'
        : value;

it('an object that comes back from the database is in the same state', () => {
  const node = readObject('node', {
    metadata: { name: 'n', uid: 'u', labels: { zone: 'north', a: 'b' } },
    status: { allocatable: { pods: '10', cpu: '4' }, conditions: [{ type: 'Ready', status: 'True' }] },
  })!;
  expect(sameState(node, turned(node) as typeof node)).toBe(true);
});
