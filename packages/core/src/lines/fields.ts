import { storable } from '../inventory/wireReader.ts';
import { type Field, LINE_LIMITS } from './line.ts';

/** A body that says fields, parted. */
export interface Parted {
  /** Its message; empty where it has none. */
  readonly text: string;
  readonly fields: readonly Field[];
}
const MESSAGES: readonly string[] = ['message', 'msg', 'body', 'event'];

/** A body that is one JSON object or pairs of key and value from its first to its last letter; null of any other. */
export function partBody(body: string): Parted | null {
  const trimmed = body.trim();
  if (trimmed.startsWith('{') && trimmed.endsWith('}')) return ofJson(trimmed);
  return /^[\w.@-]{1,128}=/.test(trimmed) ? ofPairs(trimmed) : null;
}

function ofJson(body: string): Parted | null {
  let parsed: unknown;
  try {
    parsed = JSON.parse(body);
  } catch {
    return null;
  }
  return withMessage(flattened(parsed));
}
/** Values within values by the path to them, "http.status". Bounded in depth, number and length. */
export function flattened(value: unknown, path = ''): Field[] {
  const out: Field[] = [];
  flatten(value, path, 0, out);
  return out;
}
function flatten(value: unknown, path: string, depth: number, out: Field[]): void {
  if (out.length >= LINE_LIMITS.fields) return;
  if (typeof value !== 'object' || value === null) {
    if (path !== '' && value !== undefined)
      out.push([storable(path, LINE_LIMITS.fieldName), storable(String(value), LINE_LIMITS.fieldValue)]);
    return;
  }
  if (depth >= LINE_LIMITS.depth) {
    out.push([storable(path, LINE_LIMITS.fieldName), '…']);
    return;
  }
  if (Array.isArray(value)) {
    if (value.every((one) => typeof one !== 'object' || one === null))
      out.push([
        storable(path, LINE_LIMITS.fieldName),
        storable(value.slice(0, LINE_LIMITS.fields).join(', '), LINE_LIMITS.fieldValue),
      ]);
    else value.slice(0, LINE_LIMITS.fields).forEach((one, i) => void flatten(one, `${path}.${i}`, depth + 1, out));
    return;
  }
  for (const key in value) {
    if (out.length >= LINE_LIMITS.fields) return;
    if (Object.hasOwn(value, key))
      flatten((value as Record<string, unknown>)[key], path === '' ? key : `${path}.${key}`, depth + 1, out); // an object's own key
  }
}
/** The first of the names that messages have becomes the text; a line keeps its other fields. */
export function withMessage(fields: readonly Field[]): Parted {
  for (const name of MESSAGES) {
    const found = fields.findIndex(([own]) => own === name);
    if (found >= 0) return { text: fields[found]![1], fields: fields.filter((_, i) => i !== found) };
  }
  return { text: '', fields };
}

/** key=value key="a value" …; null where anything stands between them, or there is only one. */
function ofPairs(body: string): Parted | null {
  const fields: Field[] = [];
  const pair = /([\w.@-]{1,128})=(?:"((?:[^"\\]|\\[\s\S])*)"|([^\s"]*))(?:\s+|$)/y;
  while (pair.lastIndex < body.length) {
    const found = pair.exec(body);
    if (found === null) return null;
    if (fields.length < LINE_LIMITS.fields) {
      const value =
        found[2] === undefined ? found[3]! : found[2].replace(/\\(.)/gs, (_, own: string) => unescaped(own));
      fields.push([found[1]!, storable(value, LINE_LIMITS.fieldValue)]);
    }
  }
  return fields.length > 1 ? withMessage(fields) : null;
}
const unescaped = (letter: string): string => (letter === 'n' ? '\n' : letter === 't' ? '\t' : letter);
