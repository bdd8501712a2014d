/** One metric to be served: name without suffix, as OpenMetrics wants it. */
export interface FamilyOut {
  readonly name: string;
  readonly type: 'counter' | 'gauge' | 'histogram' | 'summary';
  readonly unit: string;
  readonly help: string;
  readonly samples: readonly SampleOut[];
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

/** An OpenMetrics page. */
export function writePage(families: readonly FamilyOut[]): string {
  const lines = families.flatMap(({ name, type, unit, help, samples }) => [
    `# TYPE ${name} ${type}`,
    ...(unit === '' ? [] : [`# UNIT ${name} ${unit}`]),
    ...(help === '' ? [] : [`# HELP ${name} ${escaped(help)}`]),
    ...samples.map(({ labels, value, at, exemplar, ending = type === 'counter' ? '_total' : '' }) => {
      const pairs = pairsOf(labels);
      const example = exemplar
        ? ` # {${pairsOf(exemplar.labels)}} ${numberText(exemplar.value)} ${exemplar.at / 1000}`
        : '';
      return `${name}${ending}${pairs === '' ? '' : `{${pairs}}`} ${numberText(value)}${at === undefined ? '' : ` ${at / 1000}`}${example}`;
    }),
  ]);
  return `${lines.join('\n')}\n# EOF\n`;
}
