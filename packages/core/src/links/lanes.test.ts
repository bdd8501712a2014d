import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { inLanes } from './lanes.ts';

const box = (key: string, lane = 'quay') => ({ key, lane });
const link = (text: string) => ({ from: text[0]!, to: text[1]! }); // two letters

describe('boxes in lanes', () => {
  it('stand right of who calls them, by the longest way', () => {
    const { boxes, columns } = inLanes(
      [...'abcd'].map((key) => box(key)),
      ['ab', 'bc', 'ac', 'cd'].map(link),
    );
    expect([...'abcd'].map((key) => boxes.get(key)?.column)).toEqual([0, 1, 2, 3]);
    expect(columns).toBe(4);
  });
  it('end where they call each other in a circle', () => {
    const { boxes } = inLanes(
      [...'abc'].map((key) => box(key)),
      ['ab', 'bc', 'ca'].map(link),
    );
    expect([...'abc'].map((key) => boxes.get(key)?.column)).toEqual([0, 1, 2]);
  });
  it('have a place of their own, within their lane, and the same one each time', () => {
    const key = fc.constantFrom(...'abcdefghij');
    const boxes = fc.uniqueArray(fc.record({ key, lane: fc.constantFrom('quay', 'mole', 'pier') }), {
      selector: (one) => one.key,
    });
    const links = fc.array(fc.record({ from: key, to: key }), { maxLength: 30 });
    fc.assert(
      fc.property(boxes, links, (all, calls) => {
        const laid = inLanes(all, calls);
        expect(laid.boxes.size).toBe(all.length);
        const places = [...laid.boxes.values()].map(({ column, row }) => `${column} ${row}`);
        expect(new Set(places).size).toBe(places.length);
        for (const { key: own, lane } of all) {
          const { row, column } = laid.boxes.get(own)!; // all are laid out
          const { row: first, rows } = laid.lanes.find(({ name }) => name === lane)!; // each has its lane
          expect(row).toBeGreaterThanOrEqual(first);
          expect(row).toBeLessThan(first + rows);
          expect(column).toBeLessThan(laid.columns);
        }
        expect(laid.rows).toBe(laid.lanes.reduce((sum, { rows }) => sum + rows, 0));
        expect(inLanes([...all].reverse(), [...calls].reverse())).toEqual(laid);
      }),
    );
  });
  it('stay where they were when a few come and go, as far as no lane above grows', () => {
    const names = [...'abcdefghijklmnopqrst'];
    const boxes = fc.uniqueArray(fc.record({ key: fc.constantFrom(...names), lane: fc.constantFrom('quay', 'mole') }), {
      selector: (one) => one.key,
      minLength: 10,
    });
    const key = fc.constantFrom(...names);
    const links = fc.array(fc.record({ from: key, to: key }), { maxLength: 40 });
    fc.assert(
      fc.property(boxes, links, links, fc.nat(9), (all, calls, more, gone) => {
        const before = inLanes(all, calls);
        const now = [...all.filter((_, i) => i !== gone), { key: 'new', lane: 'mole' }];
        const laid = inLanes(now, [...more, { from: 'new', to: names[0]! }], before); // there are names
        const rowIn = (of: typeof laid, own: string, lane: string) =>
          of.boxes.get(own)!.row - of.lanes.find(({ name }) => name === lane)!.row; // all are laid out
        const places = now.map(({ key: own }) => JSON.stringify(laid.boxes.get(own)));
        expect(new Set(places).size).toBe(now.length);
        for (const { key: own, lane } of now) {
          if (own === 'new') continue;
          expect(laid.boxes.get(own)!.column).toBe(before.boxes.get(own)!.column); // both have it
          expect(rowIn(laid, own, lane)).toBe(rowIn(before, own, lane));
        }
        expect(laid.rows).toBe(laid.lanes.reduce((sum, { rows }) => sum + rows, 0));
      }),
    );
  });
  it('are laid out anew when most of them are others', () => {
    const before = inLanes(
      [...'abc'].map((own) => box(own)),
      ['ab', 'bc'].map(link),
    );
    const others = [...'cdefg'].map((own) => box(own));
    expect(inLanes(others, ['cd'].map(link), before)).toEqual(inLanes(others, ['cd'].map(link)));
  });
  it('lays out nothing where there is nothing', () => {
    expect(inLanes([], [])).toEqual({ columns: 0, rows: 0, boxes: new Map(), lanes: [] });
  });
});
