import { expect, it } from 'vitest';
import { samplesDue } from './useLiveNews.ts';

it('readings are asked for anew every few seconds, after somebody has scrolled, and at last in any case', () => {
  expect(samplesDue(4999, 60_000)).toBe(false);
  expect(samplesDue(5000, 60_000)).toBe(true);
  expect(samplesDue(8000, 100)).toBe(false);
  expect(samplesDue(8000, 400)).toBe(true);
  expect(samplesDue(20_000, 0)).toBe(true);
});
