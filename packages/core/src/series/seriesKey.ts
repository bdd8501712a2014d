/** Label pairs sorted by name, each name once, no empty values. */
export type Labels = readonly (readonly [name: string, value: string])[];

/** One text per series. U+0001 … U+0003 part the fields; label values may hold anything else, and those three are escaped. */
export function seriesKey(metric: string, labels: Labels): string {
  let key = metric;
  for (const [name, value] of labels) key += `\u0001${name}\u0002${escapeParts(value)}`;
  return key;
}

const PARTS = /[\u0001-\u0003]/;
const ALL_PARTS = /[\u0001-\u0003]/g;
function escapeParts(value: string): string {
  return PARTS.test(value) ? value.replace(ALL_PARTS, (part) => `\u0003${part.charCodeAt(0)}`) : value;
}
