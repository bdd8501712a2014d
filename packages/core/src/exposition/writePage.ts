import { toTheEnd } from '../steps/index.ts';

/** One metric to be served: name without suffix, as OpenMetrics wants it. */
export interface FamilyOut {
  readonly name: string;
  readonly type: 'counter' | 'gauge' | 'histogram' | 'summary';
  readonly unit: string;
  readonly help: string;
  readonly samples: Iterable<SampleOut>;
}
export interface SampleOut {
  readonly labels: Readonly<Record<string, string>>;
  readonly value: number;
  /** Of a histogram's or summary's part: `_bucket`, `_sum`, `_count`. */
  readonly ending?: string;
  /** When it was so, ms; none: now. Of one series they ascend. */
  readonly at?: number;
  /** Of a bucket: one that fell in it. */
  readonly exemplar?: {
    readonly labels: Readonly<Record<string, string>>;
    readonly value: number;
    readonly at: number;
  };
}

const escaped = (text: string) => text.replace(/\\/g, '\\\\').replace(/\n/g, '\\n').replace(/"/g, '\\"');
/** As OpenMetrics writes a number. */
export const numberText = (value: number) =>
  Object.is(value, -0)
    ? '-0'
    : Number.isNaN(value)
      ? 'NaN'
      : value === Number.POSITIVE_INFINITY
        ? '+Inf'
        : value === Number.NEGATIVE_INFINITY
          ? '-Inf'
          : String(value);

const pairsOf = (labels: Readonly<Record<string, string>>): string =>
  Object.entries(labels)
    .map(([label, text]) => `${label}="${escaped(text)}"`)
    .join(',');

const AT_ONCE = 500;
const sampleLine = (
  name: string,
  type: FamilyOut['type'],
  { labels, value, at, exemplar, ending }: SampleOut,
): string => {
  const pairs = pairsOf(labels);
  const end = ending ?? (type === 'counter' ? '_total' : '');
  const example = exemplar
    ? ` # {${pairsOf(exemplar.labels)}} ${numberText(exemplar.value)} ${exemplar.at / 1000}`
    : '';
  return `${name}${end}${pairs === '' ? '' : `{${pairs}}`} ${numberText(value)}${at === undefined ? '' : ` ${at / 1000}`}${example}`;
};

/** An OpenMetrics page. */
export const writePage = (families: Iterable<FamilyOut>): string => toTheEnd(writePageBySteps(families));
/** The same, some samples at a time; families are asked for one after the other. */
export function* writePageBySteps(families: Iterable<FamilyOut>): Generator<void, string> {
  const lines: string[] = [];
  for (const { name, type, unit, help, samples } of families) {
    lines.push(`# TYPE ${name} ${type}`);
    if (unit !== '') lines.push(`# UNIT ${name} ${unit}`);
    if (help !== '') lines.push(`# HELP ${name} ${escaped(help)}`);
    let written = 0;
    for (const sample of samples) {
      lines.push(sampleLine(name, type, sample));
      if (++written % AT_ONCE === 0) yield;
    }
    yield;
  }
  return `${lines.join('\n')}\n# EOF\n`;
}
