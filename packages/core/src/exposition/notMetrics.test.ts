import { describe, expect, it } from 'vitest';
import { notMetrics, PageMemory, readPage } from './index.ts';

const judged = (text: string, form: 'plain' | 'openmetrics' = 'plain') =>
  notMetrics(readPage(new TextEncoder().encode(text), { form, memory: new PageMemory() }));

describe('whether a page is one of metrics', () => {
  it.each([
    ['declared samples', '# TYPE berths gauge\nberths 4\n'],
    ['samples that nobody declared', 'berths 4\nships_total 12\n'],
    ['a line that is broken among others', 'berths 4\nships_total 12\ncranes 2\nquay of 7\n'],
    ['declared metrics without samples yet', '# TYPE berths gauge\n'],
  ])('%s are', (_, text) => {
    expect(judged(text)).toBeNull();
  });
  it('nothing measured yet, said in the strict form, is', () => {
    expect(judged('# EOF\n', 'openmetrics')).toBeNull();
  });
  it.each([
    ['words', 'all is well here\n', 'no line of it could be understood'],
    ['nothing', '', 'it is empty'],
    ['comments', '# all is well\n', 'it is empty'],
    ['a state with numbers in it', 'state fine\nversion 1.4.2-b\nuptime 5123\n', '2 lines of it say nothing'],
    ['names and values for people', 'uptime: 5123\nberths: 4\n', 'for people to read'],
  ])('%s are not', (_, text, why) => {
    expect(judged(text)).toContain(why);
  });
});
