import {
  DOCUMENT_KINDS,
  DOCUMENT_SCHEMAS,
  DocumentKey,
  type DocumentKind,
  type DocumentOf,
  FILE_VERSION,
  type FileProblem,
  SECTION_OF,
} from '@zetopsis/contract';
import { isMap, isSeq, LineCounter, type Node, parseDocument, stringify } from 'yaml';
import type { Documents, Wish } from './documents.ts';

/** Guards against a file that unfolds: aliases are a way to make much out of little. */
const MOST_ALIASES = 50;

const HEAD = `# Everything configured in Zetopsis, without secrets: a cluster's token is kept where it is.
# Read back: a section that stands here becomes exactly what it says, one that is missing is left alone.
`;

export function writeFile(documents: Documents, form: 'yaml' | 'json'): string {
  const sections = DOCUMENT_KINDS.map((kind) => [SECTION_OF[kind], Object.fromEntries(documents.all(kind))] as const);
  const file = { zetopsis: FILE_VERSION, ...Object.fromEntries(sections) };
  return form === 'json' ? `${JSON.stringify(file, null, 2)}\n` : HEAD + stringify(file, { lineWidth: 110 });
}

export interface ReadFile {
  readonly wishes: readonly Wish[];
  readonly problems: readonly FileProblem[];
  /** Where a document's field stands, for what is found wrong with it later. */
  readonly placeOf: (kind: DocumentKind, key: string, path: readonly (string | number)[]) => FileProblem;
}

/**
 * A file someone wrote, YAML or JSON (which is YAML), as wishes against what is configured now. Every problem bears its
 * line; nothing is applied while there is one.
 */
export function readFile(text: string, keysNow: (kind: DocumentKind) => Iterable<string>): ReadFile {
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines, stringKeys: true, uniqueKeys: false });
  const problems: FileProblem[] = [];
  const at = (path: readonly (string | number)[], words: string): FileProblem => {
    const node = nearest(document.contents as Node | null, path);
    const place = node?.range ? lines.linePos(node.range[0]) : null;
    return { line: place?.line ?? null, column: place?.col ?? null, path: path.join('.'), text: words };
  };
  const placeOf = (kind: DocumentKind, key: string, path: readonly (string | number)[]) =>
    at([SECTION_OF[kind], key, ...path], '');
  problems.push(...formProblems(document, lines));
  if (problems.length > 0) return { wishes: [], problems, placeOf };
  let file: unknown;
  try {
    file = document.toJS({ maxAliasCount: MOST_ALIASES });
  } catch {
    return { wishes: [], problems: [at([], 'the file refers to itself too often')], placeOf };
  }
  if (!isMap(document.contents) || typeof file !== 'object' || file === null)
    return { wishes: [], problems: [at([], 'a configuration file is a map of sections')], placeOf };
  const sections = file as Record<string, unknown>; // a map, as checked above
  if (sections['zetopsis'] !== FILE_VERSION)
    problems.push(at(['zetopsis'], `the file must say which form it has: zetopsis: ${FILE_VERSION}`));
  const known = new Map(DOCUMENT_KINDS.map((kind) => [SECTION_OF[kind], kind]));
  for (const name of Object.keys(sections))
    if (name !== 'zetopsis' && !known.has(name))
      problems.push(at([name], `there is no section ${name}; there are ${[...known.keys()].join(', ')}`));
  const wishes: Wish[] = [];
  for (const [section, kind] of known) {
    if (!(section in sections)) continue;
    const table = sections[section] ?? {};
    if (typeof table !== 'object' || table === null || Array.isArray(table)) {
      problems.push(at([section], 'a section is a map of keys to documents'));
      continue;
    }
    for (const [key, body] of Object.entries(table)) {
      const goodKey = DocumentKey.safeParse(key);
      if (!goodKey.success) problems.push(at([section, key], goodKey.error.issues[0]?.message ?? 'a bad key'));
      const read = DOCUMENT_SCHEMAS[kind].safeParse(body);
      if (read.success)
        wishes.push({ kind, key, after: read.data } as Wish); // read by the schema of its kind
      else
        for (const { path, text } of wrongFields(read.error.issues)) problems.push(at([section, key, ...path], text));
    }
    for (const key of keysNow(kind))
      if (!Object.hasOwn(table, key)) wishes.push({ kind, key, after: null as DocumentOf[typeof kind] | null } as Wish);
  }
  return { wishes, problems, placeOf };
}

type Issues = NonNullable<ReturnType<(typeof DOCUMENT_SCHEMAS)[DocumentKind]['safeParse']>['error']>['issues'];
/** What a schema says against a document, each at its field. */
function* wrongFields(issues: Issues): Generator<{ path: (string | number)[]; text: string }> {
  for (const issue of issues) {
    const path = issue.path.map((part) => part as string | number); // keys of JSON
    if (issue.code !== 'unrecognized_keys') yield { path, text: issue.message };
    else for (const field of issue.keys) yield { path: [...path, field], text: `there is no field ${field} here` };
  }
}

/** What is wrong with a text before anybody asks what it means: of what cannot be read, no more is said. */
function formProblems(document: ReturnType<typeof parseDocument>, lines: LineCounter): FileProblem[] {
  const unread = document.errors.map((error) => ({
    line: error.linePos?.[0].line ?? null,
    column: error.linePos?.[0].col ?? null,
    path: '',
    text: `this is neither YAML nor JSON: ${error.message.split('\n')[0]?.replace(/ at line.*$/, '')}`,
  }));
  if (unread.length > 0) return unread;
  // the library compares each key with each: of ten thousand teams that takes many seconds
  return keysTwice(document.contents as Node | null).map((key) => {
    const place = key.range ? lines.linePos(key.range[0]) : null;
    const name = String((key as { value?: unknown }).value);
    return { line: place?.line ?? null, column: place?.col ?? null, path: '', text: `${name} stands here twice` };
  });
}

/** Keys that stand twice in one map. */
function keysTwice(root: Node | null): Node[] {
  const found: Node[] = [];
  const left: (Node | null)[] = [root];
  for (let node = left.pop(); node !== undefined; node = left.pop()) {
    if (isSeq(node)) left.push(...(node.items as Node[]));
    if (!isMap(node)) continue;
    const seen = new Set<string>();
    for (const { key, value } of node.items) {
      left.push(value as Node | null);
      // a key that is a list or a map is refused elsewhere, and may be endless as a text
      if (!isScalarLike(key)) continue;
      const name = String(key.value);
      if (seen.has(name)) found.push(key as Node);
      seen.add(name);
    }
  }
  return found;
}

/** The deepest node that stands on the path: a missing field is shown at what lacks it. */
function nearest(root: Node | null, path: readonly (string | number)[]): Node | null {
  let at: Node | null = root;
  for (const part of path) {
    if (!at || !('get' in at) || typeof at.get !== 'function') return at;
    if (isMap(at)) {
      const pair = at.items.find(({ key }) => isScalarLike(key) && String(key.value) === String(part));
      if (!pair) return at;
      const value = pair.value as Node | null;
      at = value && isMap(value) ? value : (value ?? (pair.key as Node));
      if (part === path.at(-1)) return pair.key as Node;
    } else {
      const next = at.get(part, true) as Node | undefined;
      if (!next) return at;
      at = next;
    }
  }
  return at;
}
const isScalarLike = (key: unknown): key is { value: unknown } =>
  typeof key === 'object' && key !== null && 'value' in key;
