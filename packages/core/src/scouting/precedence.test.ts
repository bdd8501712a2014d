import { describe, expect, it } from 'vitest';
import { type Finder, holderOf } from './index.ts';

const finder = (key: string, since: number, ...over: string[]): Finder => ({ key, since, over });

describe('of scouts that find one page', () => {
  it('the one that came first reads it, whatever a later one is called', () => {
    expect(holderOf([finder('a-new-one', 20), finder('pages', 10)]).key).toBe('pages');
    expect(holderOf([finder('b', 10), finder('a', 10)]).key).toBe('a');
  });
  it('a later one does where somebody moved the pages, and only from whom they were moved', () => {
    expect(holderOf([finder('new', 20, 'pages'), finder('pages', 10)]).key).toBe('new');
    expect(holderOf([finder('new', 20, 'other'), finder('pages', 10)]).key).toBe('pages');
    expect(holderOf([finder('new', 30, 'pages'), finder('middle', 20), finder('pages', 10)]).key).toBe('new');
    expect(holderOf([finder('new', 30, 'middle'), finder('middle', 20), finder('pages', 10)]).key).toBe('pages');
    expect(holderOf([finder('last', 30, 'new'), finder('new', 20, 'pages'), finder('pages', 10)]).key).toBe('last');
  });
  it('those that take over from each other leave it with the first', () => {
    expect(holderOf([finder('a', 2, 'b'), finder('b', 1, 'a')]).key).toBe('b');
  });
});
