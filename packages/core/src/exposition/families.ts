import type { Form } from './forms.ts';
import { LineError } from './problems.ts';

const METRIC_TYPES = [
  'counter',
  'gauge',
  'histogram',
  'gaugehistogram',
  'summary',
  'stateset',
  'info',
  'unknown',
] as const;
export type MetricType = (typeof METRIC_TYPES)[number];
export type Declaration = 'TYPE' | 'UNIT' | 'HELP';

export interface Family {
  readonly name: string;
  type: MetricType;
  unit: string;
  help: string;
  /** Sample lines seen; declarations after the first one come too late. */
  samples: number;
}

/** The plain form knows five words for a type, and calls the unknown one differently. */
const PLAIN_TYPES: ReadonlyMap<string, MetricType> = new Map([
  ['counter', 'counter'],
  ['gauge', 'gauge'],
  ['histogram', 'histogram'],
  ['summary', 'summary'],
  ['untyped', 'unknown'],
]);
export function typeOf(word: string, form: Form): MetricType | undefined {
  if (form === 'plain') return PLAIN_TYPES.get(word.toLowerCase());
  return METRIC_TYPES.find((type) => type === word);
}

type Endings = Record<MetricType, readonly string[]>;
/** OpenMetrics 1.0: which endings the samples of a type may bear. */
const STRICT: Endings = {
  counter: ['_total', '_created'],
  gauge: [''],
  histogram: ['_bucket', '_count', '_sum', '_created'],
  gaugehistogram: ['_bucket', '_gcount', '_gsum'],
  summary: ['', '_count', '_sum', '_created'],
  stateset: [''],
  info: ['_info'],
  unknown: [''],
};
/** The plain form declares a counter by its whole name. */
const PLAIN: Endings = { ...STRICT, counter: [''], histogram: ['_bucket', '_count', '_sum'] };
const ALL = ['_total', '_created', '_bucket', '_gcount', '_gsum', '_count', '_sum', '_info', ''];
export const endingsOf = (type: MetricType, form: Form): readonly string[] => (form === 'plain' ? PLAIN : STRICT)[type];

/**
 * The declared family a sample name belongs to, and the ending it has there; the longest declared name wins. Throws
 * when a family is declared whose samples are called otherwise. Undefined when none is. In the plain form any name may
 * stand without a declaration, also one that looks like a declared one with an ending.
 */
export function declaredFamily(
  families: ReadonlyMap<string, Family>,
  sampleName: string,
  form: Form,
): { family: Family; ending: string } | undefined {
  let misfit: Family | undefined;
  for (let i = ALL.length - 1; i >= 0; i--) {
    const ending = ALL[i]!;
    if (!sampleName.endsWith(ending)) continue;
    const family = families.get(ending === '' ? sampleName : sampleName.slice(0, -ending.length));
    if (!family) continue;
    if (endingsOf(family.type, form).includes(ending)) return { family, ending };
    if (form === 'openmetrics' || ending === '') misfit ??= family;
  }
  if (misfit) {
    const { name, type } = misfit;
    const wanted = endingsOf(type, form).map((ending) => `${name}${ending}`);
    throw new LineError('wrongSuffix', 1, `samples of the ${type} ${name} are called ${wanted.join(' or ')}`);
  }
  return undefined;
}

/** Counters, and the counting parts of histograms and summaries, never fall except at a reset. */
export function isCumulative({ type }: Family, sampleName: string, ending: string): boolean {
  switch (type) {
    case 'counter':
      return ending !== '_created';
    case 'histogram':
    case 'summary':
      return ending === '_bucket' || ending === '_count' || ending === '_sum';
    case 'unknown':
      return sampleName.endsWith('_total');
    case 'gauge':
    case 'gaugehistogram':
    case 'stateset':
    case 'info':
      return false;
  }
}
