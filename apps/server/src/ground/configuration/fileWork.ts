import type { DocumentKind, FileProblem } from '@zetopsis/contract';
import { readFile } from './configurationFile.ts';
import type { Wish } from './documents.ts';

/** Where something stands in a file's document that was found wrong with it afterwards. */
export interface Wanted {
  readonly kind: DocumentKind;
  readonly key: string;
  readonly path: readonly (string | number)[];
}
export interface FileJob {
  readonly text: string;
  /** Keys of what is configured now, by kind. */
  readonly keys: Readonly<Record<DocumentKind, readonly string[]>>;
  readonly wanted: readonly Wanted[];
}
export interface FileDone {
  readonly wishes: readonly Wish[];
  readonly problems: readonly FileProblem[];
  /** In the order in which they were wanted. */
  readonly places: readonly FileProblem[];
}

export function fileWork({ text, keys, wanted }: FileJob): FileDone {
  const { wishes, problems, placeOf } = readFile(text, (kind) => keys[kind]);
  return { wishes, problems, places: wanted.map(({ kind, key, path }) => placeOf(kind, key, path)) };
}
