import { type Catalogue, checkMeasure, type Plan, parseMeasure } from '../src/measures/index.ts';

/** Every metric is there: what is called `level` is a gauge, anything else counts. */
export const CATALOGUE: Catalogue = {
  metric: (name) => ({ type: name === 'level' ? 'gauge' : 'counter', unit: null }),
  metrics: () => [],
  vital: () => null,
  vitals: () => [],
  measure: () => null,
  measures: () => [],
};
/** Of a text that is known to be right. */
export function planOf(text: string): Plan {
  const read = parseMeasure(text);
  const checked = 'body' in read ? checkMeasure(read.body, CATALOGUE) : read;
  if ('plan' in checked) return checked.plan;
  throw new Error(`${checked.problem.text}: ${text}`);
}
