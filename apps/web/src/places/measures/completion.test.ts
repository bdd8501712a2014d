import { CompletionContext } from '@codemirror/autocomplete';
import { EditorState } from '@codemirror/state';
import { describe, expect, it } from 'vitest';
import type { LabelsOf } from '../../state/measuresApi.ts';
import { complete } from './completion.ts';

const asked: LabelsOf[] = [];
const at = async (text: string, explicit = true) => {
  const found = await complete(new CompletionContext(EditorState.create({ doc: text }), text.length, explicit), {
    metrics: async (part) => [`${part}_total`],
    labels: async (of) => {
      asked.push(of);
      return { labels: ['quay', 'ship'], values: ['north', 'south'] };
    },
    titles: () => ['Boats an hour'],
  });
  return found && { from: found.from, labels: found.options.map(({ label }) => label) };
};

describe('completion of a measure', () => {
  it('offers metrics by what is typed of them, vitals, saved measures, and words of the language', async () => {
    expect(await at('read boats')).toEqual({ from: 5, labels: ['boats_total', 'vital', 'measure'] });
    const vitals = await at('a = read vital con');
    expect([vitals?.from, vitals?.labels.includes('container.cpu.time')]).toEqual([15, true]);
    const words = await at('read boats_total\n  per');
    expect([words?.from, words?.labels.includes('percentile')]).toEqual([19, true]);
    expect(await at('a = read measure "Bo')).toEqual({ from: 17, labels: ['"Boats an hour"'] });
  });
  it('offers labels of what is read, where labels stand, and those of objects', async () => {
    for (const text of ['read boats where qu', 'read boats where ship is "x" and ', 'read boats total for each ship, '])
      expect([text, (await at(text))?.labels.slice(0, 2)]).toEqual([text, ['quay', 'ship']]);
    expect((await at('read boats add labels wo'))?.labels).toContain('workload');
    expect(asked.at(-1)).toEqual({ of: 'metric', name: 'boats', label: '' });
  });
  it('offers values of a label between quotes, also of several, of what was read last', async () => {
    const text = 'a = read boats\nb = read vital node.cpu.time where k8s_node_name is "no';
    expect(await at(text)).toEqual({ from: text.length - 2, labels: ['north', 'south'] });
    expect(asked.at(-1)).toEqual({ of: 'vital', name: 'node.cpu.time', label: 'k8s_node_name' });
    expect((await at('read boats where quay is any of ("north", "'))?.labels).toEqual(['north', 'south']);
  });
  it('offers nothing between words unless it is asked for', async () => {
    expect(await at('read boats_total ', false)).toBeNull();
    expect((await at('read boats_total '))?.labels).toContain('growth');
  });
});
