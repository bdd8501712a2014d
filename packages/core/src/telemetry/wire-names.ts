/** Field names of the open telemetry protocol 1.x for metrics, in its JSON form; the binary form decodes to the same. */
export const FIELD = {
  resources: 'resourceMetrics',
  resource: 'resource',
  attributes: 'attributes',
  scopes: 'scopeMetrics',
  metrics: 'metrics',
  name: 'name',
  help: 'description',
  unit: 'unit',
  gauge: 'gauge',
  sum: 'sum',
  histogram: 'histogram',
  exponential: 'exponentialHistogram',
  summary: 'summary',
  points: 'dataPoints',
  temporality: 'aggregationTemporality',
  monotonic: 'isMonotonic',
  time: 'timeUnixNano',
  start: 'startTimeUnixNano',
  asDouble: 'asDouble',
  asInt: 'asInt',
  count: 'count',
  total: 'sum',
  bounds: 'explicitBounds',
  counts: 'bucketCounts',
  scale: 'scale',
  zeroCount: 'zeroCount',
  zeroThreshold: 'zeroThreshold',
  positive: 'positive',
  negative: 'negative',
  offset: 'offset',
  quantiles: 'quantileValues',
  quantile: 'quantile',
  value: 'value',
  key: 'key',
  flags: 'flags',
} as const;

export const VALUE_FIELD = {
  text: 'stringValue',
  whole: 'intValue',
  double: 'doubleValue',
  truth: 'boolValue',
} as const;

export const TEMPORALITY = { delta: 1, cumulative: 2 } as const;
/** A point that says only that there is no value. */
export const NO_VALUE_FLAG = 1;

/** Attributes of a resource that say what its figures speak of; they become labels. Others describe it only. */
export const IDENTIFYING = [
  'service.namespace',
  'service.name',
  'service.instance.id',
  'host.name',
  'k8s.namespace.name',
  'k8s.pod.name',
  'k8s.pod.uid',
  'k8s.container.name',
  'k8s.node.name',
] as const;

/** Units of the protocol (UCUM) as the names of metrics end with. */
export const UNIT_WORDS: Readonly<Record<string, string>> = {
  s: 'seconds',
  ms: 'milliseconds',
  us: 'microseconds',
  ns: 'nanoseconds',
  min: 'minutes',
  h: 'hours',
  d: 'days',
  By: 'bytes',
  KiBy: 'kibibytes',
  MiBy: 'mebibytes',
  GiBy: 'gibibytes',
  KBy: 'kilobytes',
  MBy: 'megabytes',
  GBy: 'gigabytes',
  m: 'meters',
  g: 'grams',
  kg: 'kilograms',
  V: 'volts',
  A: 'amperes',
  W: 'watts',
  J: 'joules',
  Cel: 'celsius',
  Hz: 'hertz',
  '%': 'percent',
  '1': '',
};
