import { formatCount } from '../format/index.ts';
import type { Page } from './page.ts';

/**
 * Why what was read is no page of metrics, in words; null where it is one. A program's page of its state is made of lines, too, and
 * some of them look like samples: without any declaration a page counts only if most of it is understood, and its names
 * are names.
 */
export function notMetrics({
  form,
  families,
  values,
  problemCount,
}: Pick<Page, 'form' | 'families' | 'values' | 'problemCount'>): string | null {
  const wrong = 'This is not a metrics page';
  if (values.length === 0 && problemCount > 0) return `${wrong}: no line of it could be understood. Check the path.`;
  if (form === 'openmetrics') return null;
  if (values.length === 0 && families.size === 0) return `${wrong}: it is empty. Check the path.`;
  const names = [...families.values()];
  if (names.some(({ type }) => type !== 'unknown')) return null;
  if (problemCount >= values.length)
    return `${wrong}: ${formatCount(problemCount, 'line')} of it say nothing that is measured, ${values.length} look as if. Check the path.`;
  if (2 * names.filter(({ name }) => name.endsWith(':')).length > names.length)
    return `${wrong}, but one of “name: value” lines for people to read. Check the path.`;
  return null;
}
