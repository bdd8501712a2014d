import { CompletionContext } from '@codemirror/autocomplete';
import { EditorState } from '@codemirror/state';
import { describe, expect, it } from 'vitest';
import { complete } from './completion.ts';

const at = async (text: string, explicit = true) => {
  const found = await complete(
    new CompletionContext(EditorState.create({ doc: text }), text.length, explicit),
    async (part) => [`${part}_total`],
  );
  return found && { from: found.from, labels: found.options.map(({ label }) => label) };
};

describe('completion of a measure', () => {
  it('offers metrics by what is typed of them, vitals, and words of the language', async () => {
    expect(await at('read boats')).toEqual({ from: 5, labels: ['boats_total', 'vital'] });
    const vitals = await at('a = read vital con');
    expect([vitals?.from, vitals?.labels.includes('container.cpu.time')]).toEqual([15, true]);
    const words = await at('read boats_total\n  per');
    expect([words?.from, words?.labels.includes('percentile')]).toEqual([19, true]);
  });
  it('offers nothing between words unless it is asked for', async () => {
    expect(await at('read boats_total ', false)).toBeNull();
    expect((await at('read boats_total '))?.labels).toContain('growth');
  });
});
