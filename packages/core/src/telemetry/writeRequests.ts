import {
  type Field,
  type LineLevel,
  type MaskedCounts,
  maskedField,
  type OwnPattern,
  type PartedLine,
} from '../lines/index.ts';
import { traceStateOf } from '../spans/sampled.ts';
import { SPAN_KINDS, type Span } from '../spans/span.ts';
import { FAILED_STATUS, FIELD, SEVERITY, VALUE_FIELD } from './wire-names.ts';

/** What goes on to another receiver: of one sender, its attributes masked already. */
export interface Sent<T> {
  readonly attributes: readonly Field[];
  readonly items: readonly T[];
}
const attributes = (fields: readonly Field[]) =>
  fields.map(([name, value]) => ({ [FIELD.key]: name, [FIELD.value]: { [VALUE_FIELD.text]: value } }));
/** ms with fractions, as the protocol's JSON form writes nanoseconds: a text. */
const nanos = (at: number): string => `${Math.round(at * 1000)}000`;
const severityOf = (level: LineLevel | null) => (level === null ? {} : { [FIELD.severity]: SEVERITY[level] });

/** A logs request of the open telemetry protocol, in its JSON form. */
export function logsRequest(sent: readonly Sent<PartedLine>[]): object {
  return {
    [FIELD.logs]: sent.map((of) => ({
      [FIELD.resource]: { [FIELD.attributes]: attributes(of.attributes) },
      [FIELD.scopeLogs]: [
        {
          [FIELD.records]: of.items.map(({ at, level, text, fields, traceId, spanId }) => ({
            [FIELD.time]: nanos(at),
            ...severityOf(level),
            [FIELD.body]: { [VALUE_FIELD.text]: text },
            [FIELD.attributes]: attributes(fields),
            ...(traceId !== '' && { [FIELD.traceId]: traceId }),
            ...(spanId !== '' && { [FIELD.spanId]: spanId }),
          })),
        },
      ],
    })),
  };
}
/** A traces request. */
export function tracesRequest(sent: readonly Sent<Span>[]): object {
  return {
    [FIELD.spans]: sent.map((of) => ({
      [FIELD.resource]: { [FIELD.attributes]: attributes(of.attributes) },
      [FIELD.scopeSpans]: [{ [FIELD.spanList]: of.items.map(spanOut) }],
    })),
  };
}
const spanOut = (span: Span) => ({
  [FIELD.traceId]: span.traceId,
  [FIELD.spanId]: span.spanId,
  ...(span.parentId !== '' && { [FIELD.parentId]: span.parentId }),
  ...(span.stands !== undefined && { [FIELD.traceState]: traceStateOf(span.stands) }),
  [FIELD.name]: span.name,
  [FIELD.kind]: SPAN_KINDS.indexOf(span.kind),
  [FIELD.start]: nanos(span.at),
  [FIELD.end]: nanos(span.at + span.took),
  [FIELD.attributes]: attributes(span.fields),
  [FIELD.events]: span.events.map(({ at, name, fields }) => ({
    [FIELD.time]: nanos(at),
    [FIELD.name]: name,
    [FIELD.attributes]: attributes(fields),
  })),
  [FIELD.links]: span.links.map((traceId) => ({ [FIELD.traceId]: traceId })),
  ...((span.failed || span.message !== '') && {
    [FIELD.status]: { ...(span.failed && { [FIELD.code]: FAILED_STATUS }), [FIELD.message]: span.message },
  }),
});

const DEEPEST = 32;
/**
 * A metrics request as it came, with secrets taken out of its attributes, in its JSON form: bytes are hex digits, numbers that are none
 * are words. Part by part, so that nothing waits for a large one.
 */
export function* maskedMetricsBySteps(
  request: unknown,
  counts: MaskedCounts,
  own: readonly OwnPattern[] = [],
): Generator<void, unknown> {
  let parts = 0;
  function* copy(value: unknown, depth: number): Generator<void, unknown> {
    if (++parts % 500 === 0) yield;
    if (value instanceof Uint8Array)
      return Array.from(value.subarray(0, 16), (byte) => byte.toString(16).padStart(2, '0')).join('');
    if (typeof value === 'number') return Number.isFinite(value) ? value : String(value);
    if (typeof value !== 'object' || value === null) return value;
    if (depth > DEEPEST) return null;
    if (Array.isArray(value)) {
      const out: unknown[] = [];
      for (const one of value) out.push(yield* copy(one, depth + 1));
      return out;
    }
    const out: Record<string, unknown> = Object.create(null);
    for (const [name, one] of Object.entries(value)) out[name] = yield* copy(one, depth + 1);
    const { [FIELD.key]: key, [FIELD.value]: given } = out;
    if (typeof key === 'string' && typeof given === 'object' && given !== null)
      return maskedAttribute(key, given as Record<string, unknown>, counts, own); // it is an object
    return out;
  }
  return yield* copy(request, 0);
}
function maskedAttribute(
  key: string,
  given: Record<string, unknown>,
  counts: MaskedCounts,
  own: readonly OwnPattern[],
): object {
  const text = given[VALUE_FIELD.text];
  const [name, value] = maskedField([key, typeof text === 'string' ? text : ''], counts, own);
  return { [FIELD.key]: name, [FIELD.value]: typeof text === 'string' ? { [VALUE_FIELD.text]: value } : given };
}
