/** What may stand in braces in what a rule calls its alerts, and in what it says of them. */
export const SAYING_FIELDS = [
  'object',
  'place',
  'cluster',
  'namespace',
  'value',
  'limit',
  'reason',
  'evidence',
  'team',
  'rule',
] as const;
export type SayingField = (typeof SAYING_FIELDS)[number];
const FIELD = /\{([a-zA-Z]{1,20})\}/g;

/** Why a text cannot be filled; null where it can. */
export function sayingProblem(text: string): string | null {
  for (const [, name] of text.matchAll(FIELD))
    if (!SAYING_FIELDS.some((field) => field === name))
      return `there is no field {${name}}; there are ${SAYING_FIELDS.join(', ')}`;
  return null;
}
/** The text with its fields; what a field says is never looked through for fields itself. */
export const saying = (text: string, fields: Readonly<Record<SayingField, string>>): string =>
  text.replace(FIELD, (whole, name: string) => {
    const field = SAYING_FIELDS.find((one) => one === name);
    return field === undefined ? whole : fields[field];
  });
