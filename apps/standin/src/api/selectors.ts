import type { ApiObject } from '../world/objects.ts';

export type Predicate = (object: ApiObject) => boolean;
const all: Predicate = () => true;

function field(object: ApiObject, path: string): string {
  // biome-ignore lint/suspicious/noExplicitAny: walks open JSON
  const value = path.split('.').reduce<any>((at, part) => at?.[part], object);
  return value === undefined || value === null ? '' : String(value);
}

/** `a=b,c!=d` on fields. */
export function fieldSelector(text: string | null): Predicate {
  if (!text) return all;
  const parts = text.split(',').map((part): Predicate => {
    const [, path = '', operator, value = ''] = /^([^=!]+)(!=|==?)(.*)$/.exec(part.trim()) ?? [];
    return (object) => (field(object, path) === value) === (operator !== '!=');
  });
  return (object) => parts.every((matches) => matches(object));
}

/** `a=b`, `a!=b`, `a`, `!a`, `a in (b,c)`, `a notin (b,c)` on labels. */
export function labelSelector(text: string | null): Predicate {
  if (!text) return all;
  const parts = text.split(/,(?![^(]*\))/).map((raw): Predicate => {
    const part = raw.trim();
    const set = /^(\S+)\s+(in|notin)\s+\(([^)]*)\)$/.exec(part);
    if (set) {
      const values = set[3]!.split(',').map((value) => value.trim());
      return ({ metadata }) => values.includes(metadata.labels?.[set[1]!] ?? '\u0000') === (set[2] === 'in');
    }
    const equal = /^([^=!]+)(!=|==?)(.*)$/.exec(part);
    if (equal)
      return ({ metadata }) => (metadata.labels?.[equal[1]!.trim()] === equal[3]!.trim()) === (equal[2] !== '!=');
    if (part.startsWith('!')) return ({ metadata }) => metadata.labels?.[part.slice(1)] === undefined;
    return ({ metadata }) => metadata.labels?.[part] !== undefined;
  });
  return (object) => parts.every((matches) => matches(object));
}
