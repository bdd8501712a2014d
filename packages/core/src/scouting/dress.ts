import type { Labels } from '../series/index.ts';
import { wildcard } from './wildcard.ts';

/** Series that are not kept: of a metric whose name has this form, and with a label that does, when one is given. */
export interface DropRule {
  /** A name; `*` stands for any number of characters. */
  readonly metric: string;
  readonly label: string;
  readonly is: string;
}

/** What happens to the series of an endpoint before they are kept. */
export interface Dress {
  readonly attach: Readonly<Record<string, string>>;
  readonly drop: readonly DropRule[];
}
export const PLAIN: Dress = { attach: {}, drop: [] };

/**
 * Puts attached labels on a series; a label of the page's own of the same name is kept as `page_NAME`. Null for a series
 * that a drop rule names. Made once for an endpoint, since patterns are compiled.
 */
export function dresser({ attach, drop }: Dress): (metric: string, labels: Labels) => Labels | null {
  const attached = Object.entries(attach).filter(([, value]) => value !== '');
  const rules = drop.map(({ metric, label, is }) => ({ metric: wildcard(metric), label, is: wildcard(is) }));
  return (metric, labels) => {
    const dropped = rules.some(
      (rule) =>
        rule.metric(metric) && (rule.label === '' || rule.is(labels.find(([name]) => name === rule.label)?.[1] ?? '')),
    );
    if (dropped) return null;
    if (attached.length === 0) return labels;
    const own = new Map(labels);
    for (const [name, value] of attached) {
      const page = own.get(name);
      if (page !== undefined && page !== value) own.set(`page_${name}`, page);
      own.set(name, value);
    }
    return [...own].sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0));
  };
}
