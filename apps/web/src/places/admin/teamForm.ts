import { type OwnershipAnswer, type OwnershipDocument, TeamDocument } from '@zetopsis/contract';
import { z } from 'zod';

/** "tove, jonas" or one a line → the names. */
const splitNames = (text: string): string[] => text.split(/[\s,]+/).filter((name) => name !== '');

const PATTERNS =
  /^(?:(?<cluster>[a-z0-9-]+)\s*\/\s*)?(?:(?<by>label|annotation)\s+(?<key>[^\s=]+)\s*=\s*(?<is>.*)|object\s+(?<within>[a-z0-9-]+)\/(?<workload>[a-z-]+:\S+)|(?<namespace>[a-z0-9-]+))$/;

/**
 * One line of what a team owns: "tides"; "label team=tides"; "annotation owner=tides"; "object tides/deployment:web".
 * With "seaward/" before it, in that cluster only. Null where the line says none of it.
 */
export function readOwnership(line: string): OwnershipAnswer | null {
  const found = PATTERNS.exec(line.trim())?.groups;
  if (!found) return null;
  const cluster = found['cluster'] ?? null;
  if (found['by'] === 'label' || found['by'] === 'annotation')
    return { by: found['by'], cluster, key: found['key'] ?? '', is: (found['is'] ?? '').trim() };
  if (found['within'] !== undefined)
    return { by: 'object', cluster, namespace: found['within'], workload: found['workload'] ?? '' };
  return { by: 'name', cluster, namespace: found['namespace'] ?? '' };
}

export function writeOwnership(own: OwnershipAnswer): string {
  const where = own.cluster === null ? '' : `${own.cluster}/`;
  switch (own.by) {
    case 'name':
      return `${where}${own.namespace}`;
    case 'label':
    case 'annotation':
      return `${where}${own.by} ${own.key}=${own.is}`;
    case 'object':
      return `${where}object ${own.namespace}/${own.workload}`;
  }
}

const Owns = z
  .string()
  .transform((text, context): z.input<typeof OwnershipDocument>[] =>
    text
      .split('\n')
      .map((line) => line.trim())
      .filter((line) => line !== '')
      .flatMap((line) => {
        const own = readOwnership(line);
        if (own) return [own];
        context.addIssue({ code: 'custom', message: `“${line}” names nothing that a team can own` });
        return [];
      }),
  )
  .pipe(TeamDocument.shape.owns.unwrap());

/** A team as it is edited: members and what it owns are texts. */
export const TeamForm = TeamDocument.extend({
  members: z.string().transform(splitNames).pipe(TeamDocument.shape.members.unwrap()),
  owns: Owns,
  linesADay: z
    .string()
    .trim()
    .transform((text) => (text === '' ? null : Number(text)))
    .pipe(TeamDocument.shape.linesADay.unwrap()),
});
