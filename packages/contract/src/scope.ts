import { z } from 'zod';

/**
 * Where one looks: cluster, namespace, workload key ("deployment:booking-front"), pod, container; fewer parts look wider.
 * In addresses the parts are joined by "/", each percent-encoded.
 */
export const ScopePath = z.array(z.string().min(1).max(400)).max(5);
export type ScopePath = z.infer<typeof ScopePath>;

export const writeScope = (path: readonly string[]): string => path.map(encodeURIComponent).join('/');

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

export const ScopeQuery = z.object({
  in: z.string().max(2500).default('').transform(readScope).pipe(ScopePath),
});
