import type { Completion, CompletionContext, CompletionResult } from '@codemirror/autocomplete';
import { INVENTORY_VITALS, STEP_WORDS } from '@zetopsis/core/measures';
import { VITAL_NAMES } from '@zetopsis/core/vitals';
import type { LabelsOf } from '../../state/measuresApi.ts';

/** Looks up what occurs. */
export interface Occurring {
  /** Metrics whose names have a part. */
  readonly metrics: (part: string) => Promise<readonly string[]>;
  readonly labels: (
    of: LabelsOf,
  ) => Promise<{ readonly labels: readonly string[]; readonly values: readonly string[] }>;
  /** Of saved measures. */
  readonly titles: () => readonly string[];
}

const WORDS = ['read', 'show', 'from', 'read vital', ...STEP_WORDS, 'for each', 'overall', 'of buckets', 'as percent'];
/** Those that `add labels` knows of any object. */
const ADDED = ['workload', 'kind', 'team', 'node', 'cluster', 'pod'];
const NAME = '[A-Za-z_][A-Za-z0-9_.:]*';
const LABELS_HERE = new RegExp(
  `(?:\\bwhere|\\band|\\bfor each|\\bpaired by|\\blabel)\\s+(?:${NAME}\\s*,\\s*)*(?:${NAME})?$`,
);
const ADDED_HERE = new RegExp(`\\badd labels\\s+(?:${NAME}\\s*,\\s*)*(?:${NAME})?$`);
const VALUE_HERE = new RegExp(
  `(${NAME}|"[^"\\n]+")\\s+(?:is|is not|contains|starts with|ends with|is (?:any|none) of\\s*\\((?:\\s*"[^"\\n]*"\\s*,)*)\\s*"([^"\\n]*)$`,
);
const READ = new RegExp(`\\bread\\s+(vital\\s+)?(${NAME})`, 'g');
/** How far back one looks. */
const FAR = 2000;

/** What was read last before the cursor. */
function readBefore(text: string): Pick<LabelsOf, 'of' | 'name'> | null {
  const last = [...text.matchAll(READ)].at(-1);
  return last ? { of: last[1] === undefined ? 'metric' : 'vital', name: last[2]! } : null;
}
const optionsOf = (labels: readonly string[], type: string): Completion[] => labels.map((label) => ({ label, type }));

/** What may stand where one writes: a metric behind “read”, a label behind “where”, a value of it in quotes, else a word of the language. */
export async function complete(context: CompletionContext, occurring: Occurring): Promise<CompletionResult | null> {
  const text = context.state.sliceDoc(Math.max(0, context.pos - FAR), context.pos);
  const title = /\bread\s+measure\s+("?[^"\n]*)$/.exec(text);
  if (title)
    return {
      from: context.pos - title[1]!.length,
      options: optionsOf(
        occurring.titles().map((own) => `"${own}"`),
        'constant',
      ),
    };
  const read = readBefore(text);
  const value = VALUE_HERE.exec(text);
  if (value && read) {
    const label = value[1]!.replaceAll('"', '');
    const { values } = await occurring.labels({ ...read, label });
    return { from: context.pos - value[2]!.length, options: optionsOf(values, 'text'), filter: true };
  }
  const word = context.matchBefore(/[A-Za-z_][A-Za-z0-9_.:]*/);
  if (word === null && !context.explicit && !/\s(where|each|labels)\s$/.test(text)) return null;
  const from = word?.from ?? context.pos;
  const typed = word?.text ?? '';
  const before = text.slice(0, text.length - typed.length);
  if (/\bread\s+vital\s+$/.test(before))
    return { from, options: optionsOf([...VITAL_NAMES, ...INVENTORY_VITALS], 'constant') };
  if (/\bread\s+$/.test(before))
    return {
      from,
      options: [
        ...optionsOf(await occurring.metrics(typed), 'variable'),
        ...optionsOf(['vital', 'measure'], 'keyword'),
      ],
    };
  if (ADDED_HERE.test(text)) return { from, options: optionsOf(ADDED, 'property') };
  if (LABELS_HERE.test(text) && read) {
    const { labels } = await occurring.labels({ ...read, label: '' });
    return { from, options: optionsOf([...labels, ...ADDED.filter((own) => !labels.includes(own))], 'property') };
  }
  return { from, options: optionsOf(WORDS, 'keyword') };
}
