import { describe, expect, it } from 'vitest';
import { EMPTY_CODES, emptyBecause, emptyWords } from './index.ts';

describe('what stands where nothing does', () => {
  it('is a sentence for every code, another one for each, and names the metric that it is about', () => {
    const words = EMPTY_CODES.map((code) => emptyWords(emptyBecause(code, 'lamp_requests')));
    for (const text of words) expect(text).toMatch(/^([A-Z]|lamp_requests does).*\.$/);
    expect(new Set(words).size).toBe(EMPTY_CODES.length);
    expect(emptyWords(emptyBecause('failuresNotTold', 'lamp_requests'))).toMatch(/^lamp_requests does not tell/);
  });
});
