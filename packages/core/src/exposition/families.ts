import { LineError } from './parseSample.ts';

export const METRIC_TYPES = [
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

export interface Family {
  readonly name: string;
  type: MetricType;
  unit: string;
  help: string;
  /** Sample lines seen; declarations after the first one come too late. */
  samples: number;
}

/** OpenMetrics 1.0: which endings the samples of a type may bear. */
const SUFFIXES: Record<MetricType, readonly string[]> = {
  counter: ['_total', '_created'],
  gauge: [''],
  histogram: ['_bucket', '_count', '_sum', '_created'],
  gaugehistogram: ['_bucket', '_gcount', '_gsum'],
  summary: ['', '_count', '_sum', '_created'],
  stateset: [''],
  info: ['_info'],
  unknown: [''],
};
const ALL_SUFFIXES = ['_total', '_created', '_bucket', '_gcount', '_gsum', '_count', '_sum', '_info', ''];

/** The declared family a sample name belongs to; the longest declared name wins. Throws when the ending does not suit the type. */
export function familyOf(families: ReadonlyMap<string, Family>, sampleName: string): Family | undefined {
  let misfit: Family | undefined;
  for (const suffix of ALL_SUFFIXES) {
    if (!sampleName.endsWith(suffix)) continue;
    const family = families.get(suffix === '' ? sampleName : sampleName.slice(0, -suffix.length));
    if (!family) continue;
    if (SUFFIXES[family.type].includes(suffix)) return family;
    misfit ??= family;
  }
  if (misfit) {
    const wanted = SUFFIXES[misfit.type].map((suffix) => `${misfit?.name}${suffix}`).join(' or ');
    throw new LineError('wrongSuffix', 1, `samples of the ${misfit.type} ${misfit.name} are called ${wanted}`);
  }
  return undefined;
}

/** Counters, and the counting parts of histograms and summaries, never fall except at a reset. */
export function isCumulative(family: Family | undefined, sampleName: string): boolean {
  if (!family) return sampleName.endsWith('_total');
  switch (family.type) {
    case 'counter':
      return sampleName.endsWith('_total');
    case 'histogram':
      return /_(bucket|count|sum)$/.test(sampleName);
    case 'summary':
      return /_(count|sum)$/.test(sampleName);
    case 'gauge':
    case 'gaugehistogram':
    case 'stateset':
    case 'info':
    case 'unknown':
      return false;
  }
}
