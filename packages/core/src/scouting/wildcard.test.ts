import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dresser } from './dress.ts';
import { wildcard } from './wildcard.ts';

/** The plain way: a star takes nothing, or one letter and goes on. Exponential, so for short texts only. */
function fits(form: string, text: string): boolean {
  if (form === '') return text === '';
  if (form[0] === '*') return fits(form.slice(1), text) || (text !== '' && fits(form, text.slice(1)));
  return form[0] === text[0] && fits(form.slice(1), text.slice(1));
}
const letters = (...of: string[]) => fc.array(fc.constantFrom(...of), { maxLength: 9 }).map((own) => own.join(''));

describe('a form with stars', () => {
  it('fits what the plain way fits', () => {
    fc.assert(
      fc.property(letters('a', 'b', '*', '.'), letters('a', 'b', '.', '\n'), (form, text) => {
        expect(wildcard(form)(text)).toBe(fits(form, text));
      }),
      { numRuns: 2000 },
    );
  });
  it('takes its other letters as they are', () => {
    expect(wildcard('a.c')('abc')).toBe(false);
    expect(wildcard('(a+)+$')('(a+)+$')).toBe(true);
  });
  it('is not held up by a text made against it', () => {
    const text = '/a/b'.repeat(1024);
    const dress = dresser({ attach: {}, drop: [{ metric: '*', label: 'path', is: '*/a*/b*/a*/b*/debug*' }] });
    for (let i = 0; i < 1000; i++) expect(dress('asked_total', [['path', `${text}${i}`]])).not.toBeNull();
    expect(dress('asked_total', [['path', `${text}/debug/1`]])).toBeNull();
  });
});
