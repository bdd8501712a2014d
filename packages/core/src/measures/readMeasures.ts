import { parseMeasure } from './parse.ts';
import type { Body } from './tree.ts';

/** Titles of saved measures that a body reads, each once. */
export function titlesRead({ bindings, result }: Body): string[] {
  const chains = [...bindings.map(({ chain }) => chain), ...(result.is === 'chain' ? [result.chain] : [])];
  return [...new Set(chains.flatMap(({ source }) => (source.is === 'measure' ? [source.title] : [])))];
}

/** Of measures by their titles: how one reads itself in the end, each title in order; null where none does. */
export function circleIn(texts: ReadonlyMap<string, string>): string[] | null {
  const reads = new Map(
    [...texts].map(([title, text]) => {
      const read = parseMeasure(text);
      return [title, 'body' in read ? titlesRead(read.body).filter((own) => texts.has(own)) : []] as const;
    }),
  );
  const over = new Set<string>();
  for (const begin of reads.keys()) {
    // the way that leads here, and what of each is still to be looked at
    const way: { readonly title: string; readonly left: string[] }[] = [];
    const on = new Set<string>();
    const enter = (title: string) => {
      way.push({ title, left: [...(reads.get(title) ?? [])] });
      on.add(title);
    };
    if (!over.has(begin)) enter(begin);
    while (way.length > 0) {
      const last = way.at(-1)!; // it is not empty
      const next = last.left.pop();
      if (next === undefined) {
        over.add(last.title);
        on.delete(last.title);
        way.pop();
      } else if (on.has(next)) {
        const from = way.findIndex(({ title }) => title === next);
        return [...way.slice(from).map(({ title }) => title), next];
      } else if (!over.has(next)) enter(next);
    }
  }
  return null;
}
