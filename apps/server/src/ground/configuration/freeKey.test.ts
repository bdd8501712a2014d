import { DocumentKey } from '@zetopsis/contract';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { freeKey } from './freeKey.ts';

describe('a key for what is new', () => {
  const none = () => false;
  it('is what it is called, as far as a key can say it', () => {
    expect(freeKey('Memory near its limit, 2nd', 'rule', none)).toBe('memory-near-its-limit-2nd');
    expect(freeKey('Hôtel · café', 'rule', none)).toBe('ho-tel-cafe');
  });
  it('is its kind where nothing of the name can stand in one', () => {
    expect(['', '—', '潮位', '  '].map((name) => freeKey(name, 'hush', none))).toEqual([
      'hush',
      'hush',
      'hush',
      'hush',
    ]);
  });
  it('is never one that is taken, and always one that is let in', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 200 }), fc.integer({ min: 0, max: 40 }), (title, before) => {
        const taken = new Set<string>();
        for (let n = 0; n < before; n++) taken.add(freeKey(title, 'rule', (key) => taken.has(key)));
        expect(taken.size).toBe(before);
        const key = freeKey(title, 'rule', (one) => taken.has(one));
        expect(taken.has(key)).toBe(false);
        expect(DocumentKey.parse(key)).toBe(key);
      }),
    );
  });
});
