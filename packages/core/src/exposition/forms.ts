/** The two text forms a page comes in. The strict one has an end mark, so a torn page is seen; the plain one has none. */
export type Form = 'openmetrics' | 'plain';

/** By the type that the page's sender names; what names none of the two is read as plain, which forgives most. */
export function formOf(contentType: string): Form {
  return /^\s*application\/openmetrics-text\b/i.test(contentType) ? 'openmetrics' : 'plain';
}
