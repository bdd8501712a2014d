import { z } from 'zod';
import { type ObjectPath, readPath } from './objectPath.ts';

/** Where one looks, in parts (objectPath.ts); in addresses they are joined by "/", and what would break an address is percent-encoded. */
export const ScopePath = z.array(z.string().min(1).max(400)).max(5);
export type ScopePath = z.infer<typeof ScopePath>;

const UNSAFE = /[^A-Za-z0-9._~:-]/g;
export const writeScope = (path: readonly string[]): string =>
  path.map((part) => part.replace(UNSAFE, encodeURIComponent)).join('/');

/** A query string that stays readable: a scope's "/" and ":" need no encoding there. Undefined values are left out. */
export function writeQuery(values: Readonly<Record<string, string | number | undefined>>): string {
  return Object.entries(values)
    .filter(([, value]) => value !== undefined && value !== '')
    .map(
      ([name, value]) => `${name}=${encodeURIComponent(String(value)).replaceAll('%2F', '/').replaceAll('%3A', ':')}`,
    )
    .join('&');
}

export function readScope(text: string): string[] {
  return text
    .split('/')
    .filter((part) => part !== '')
    .map((part) => {
      try {
        return decodeURIComponent(part);
      } catch {
        return part;
      }
    });
}

const TRAITS = ['environment', 'region', 'flavour'] as const;
/** Only clusters that bear this trait: "environment:production". */
export const ClusterTrait = z
  .string()
  .max(120)
  .regex(/^(environment|region|flavour):.+$/, 'is environment:…, region:… or flavour:…');
export function readTrait(text: string): { trait: (typeof TRAITS)[number]; is: string } | null {
  const trait = TRAITS.find((name) => text.startsWith(`${name}:`));
  return trait ? { trait, is: text.slice(trait.length + 1) } : null;
}

function pathOf(parts: ScopePath, context: z.RefinementCtx): ObjectPath {
  const path = readPath(parts);
  if (path !== null) return path;
  context.addIssue({ code: 'custom', message: 'names no place where an object can stand' });
  return z.NEVER;
}

export const ScopeQuery = z.object({
  in: z.string().max(2500).default('').transform(readScope).pipe(ScopePath).transform(pathOf),
  clusters: ClusterTrait.optional(),
});
export type ScopeQuery = z.infer<typeof ScopeQuery>;
