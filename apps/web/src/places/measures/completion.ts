import type { CompletionContext, CompletionResult } from '@codemirror/autocomplete';
import { INVENTORY_VITALS, STEP_WORDS } from '@zetopsis/core/measures';
import { VITAL_NAMES } from '@zetopsis/core/vitals';

/** Metrics whose names have a part. */
export type MetricsLike = (part: string) => Promise<readonly string[]>;

const WORDS = ['read', 'show', 'from', 'read vital', ...STEP_WORDS, 'for each', 'overall', 'of buckets', 'as percent'];

/** What may stand where one writes: a metric behind “read”, a vital behind “read vital”, else a word of the language. */
export async function complete(context: CompletionContext, metricsLike: MetricsLike): Promise<CompletionResult | null> {
  const word = context.matchBefore(/[A-Za-z_][A-Za-z0-9_.:]*/);
  if (word === null && !context.explicit) return null;
  const from = word?.from ?? context.pos;
  const typed = word?.text ?? '';
  const before = context.state.sliceDoc(Math.max(0, from - 40), from);
  if (/\bread\s+vital\s+$/.test(before))
    return { from, options: [...VITAL_NAMES, ...INVENTORY_VITALS].map((label) => ({ label, type: 'constant' })) };
  if (/\bread\s+$/.test(before)) {
    const names = await metricsLike(typed);
    return {
      from,
      options: [...names.map((label) => ({ label, type: 'variable' })), { label: 'vital', type: 'keyword' }],
    };
  }
  return { from, options: WORDS.map((label) => ({ label, type: 'keyword' })) };
}
