import { factorOf } from '../vitals/index.ts';
import { ANSWER_DURATIONS, BOUND_LABEL, ERROR_LABEL, PARTS, RPC_CODE_LABELS, SERVER_ERRORS } from './wire-names.ts';

/** The series of one name that a program serves: their labels with their values. */
export interface ServedSeries {
  readonly metric: string;
  readonly labels: readonly ReadonlyMap<string, string>[];
}
/** Where a program tells of the requests that it answers. */
export interface RequestSource {
  /** Counts requests. */
  readonly count: string;
  /** Whether its labels tell which of them failed. */
  readonly tellsFailures: boolean;
  /** Buckets of how long they took; null where nothing tells. */
  readonly buckets: string | null;
  /** What a bound is multiplied by to be in seconds. */
  readonly factor: number;
}

const ANSWERED = /request|rpc|call|http|answer|command|operation|query|queries/;
const TOOK = /duration|latency|took|time|seconds|millis|micros/;
const COUNTED =
  /requests?$|calls?$|answers?$|commands?$|operations?$|quer(y|ies)$|(requests?|calls?|answers?)_(handled|served|answered)$/;
/** What it asks of others, or is no answer. */
const OTHER = /client|outgoing|upstream|egress|connect|queue|wait|gc_|bytes|size|body/;
const CODE = /(^|_)(status|code|status_code|response_code)$/;
const OUTCOME = /(^|_)(outcome|result|status|state)$/;
const SUCCESS = /(^|_)(success|succeeded|ok)$/;
const FAILED = /^(fail(ed|ure)?|errors?|exception|time(d )?out|crash(ed)?|5xx|fault)$/i;
const WORDS = /^[a-z][a-z_ -]*$/i;

/** Whether what a series counts has failed, by its labels. */
export function isFailed(labels: Iterable<readonly [string, string]>): boolean {
  for (const [name, value] of labels) {
    if (value === '') continue;
    if (name === ERROR_LABEL) return true;
    if (RPC_CODE_LABELS.has(name)) {
      if (SERVER_ERRORS.has(value)) return true;
    } else if ((CODE.test(name) && /^5\d\d$/.test(value)) || (OUTCOME.test(name) && FAILED.test(value))) return true;
    else if (SUCCESS.test(name) && /^(false|no|0)$/i.test(value)) return true;
  }
  return false;
}
/** What a failed one's label says. */
export type FailedBy =
  | { readonly label: string; readonly is: 'is present' }
  | { readonly label: string; readonly is: 'matches'; readonly text: string };
/**
 * One condition on one label that holds for what failed and for nothing else, of series that are served now; null where no
 * one label tells it.
 */
export function failedBy(served: readonly Iterable<readonly [string, string]>[]): FailedBy | null {
  const all = served.map((labels) => new Map(labels));
  const names = [...new Set(all.flatMap((labels) => [...labels.keys()]))].sort();
  for (const label of names) {
    const alone = (value: string | undefined) => value !== undefined && value !== '' && isFailed([[label, value]]);
    const told = all.some((labels) => tells(label, labels.get(label) ?? ''));
    if (!told || all.some((labels) => isFailed(labels) !== alone(labels.get(label)))) continue;
    if (label === ERROR_LABEL) return { label, is: 'is present' };
    if (RPC_CODE_LABELS.has(label)) return { label, is: 'matches', text: [...SERVER_ERRORS].join('|') };
    if (CODE.test(label)) return { label, is: 'matches', text: '5[0-9][0-9]' };
    if (SUCCESS.test(label)) return { label, is: 'matches', text: '(?i)false|no|0' };
    return { label, is: 'matches', text: `(?i)${FAILED.source.slice(1, -1)}` };
  }
  return null;
}
/** Whether such a label could tell of failures, though there may have been none. */
function tells(name: string, value: string): boolean {
  if (name === ERROR_LABEL || RPC_CODE_LABELS.has(name)) return true;
  if (CODE.test(name) && /^\d{3}$/.test(value)) return true;
  return (OUTCOME.test(name) && WORDS.test(value)) || SUCCESS.test(name);
}
const tellsFailures = ({ labels }: ServedSeries): boolean =>
  labels.some((own) => [...own].some(([name, value]) => tells(name, value)));

const without = (metric: string, ending: string): string => metric.slice(0, metric.length - ending.length);

/** Whether a name is worth a look at its labels. */
export const mayTellOfRequests = (metric: string): boolean =>
  (ANSWERED.test(metric) || ANSWER_DURATIONS.some((base) => metric.startsWith(base))) &&
  !OTHER.test(metric) &&
  Object.values(PARTS).some((ending) => metric.endsWith(ending));

/**
 * Which of the metrics that programs serve tell of the requests that they answer: by the names of the conventions, else by
 * the words in their names. A counter that tells of failures is preferred to a histogram that does not.
 */
export function recogniseRequests(served: readonly ServedSeries[]): RequestSource | null {
  const known = served.filter(({ metric, labels }) => mayTellOfRequests(metric) && labels.length > 0);
  const byName = new Map(known.map((one) => [one.metric, one]));
  const rank = (base: string): number => {
    const convention = ANSWER_DURATIONS.indexOf(base);
    return convention >= 0 ? convention : ANSWER_DURATIONS.length + (base.includes('server') ? 0 : 1);
  };
  const better = (a: string, b: string) => rank(a) - rank(b) || a.length - b.length || (a < b ? -1 : 1);
  const [base] = known
    .filter(({ metric, labels }) => metric.endsWith(PARTS.bucket) && labels.every((own) => own.has(BOUND_LABEL)))
    .map(({ metric }) => without(metric, PARTS.bucket))
    .filter((name) => TOOK.test(name) && byName.has(`${name}${PARTS.count}`))
    .sort(better);
  const counters = known
    .filter(({ metric }) => metric.endsWith(PARTS.total) && COUNTED.test(without(metric, PARTS.total)))
    .sort((a, b) => Number(tellsFailures(b)) - Number(tellsFailures(a)) || better(a.metric, b.metric));
  const histogram = base === undefined ? undefined : byName.get(`${base}${PARTS.count}`);
  const [counter] = counters;
  const count =
    histogram && (tellsFailures(histogram) || !counter || !tellsFailures(counter)) ? histogram : (counter ?? histogram);
  if (!count) return null;
  return {
    count: count.metric,
    tellsFailures: tellsFailures(count),
    buckets: base === undefined ? null : `${base}${PARTS.bucket}`,
    factor: base === undefined ? 1 : factorOf(base),
  };
}
