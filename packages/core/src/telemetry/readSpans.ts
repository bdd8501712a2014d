import { asWire, child, storable, text, type Wire } from '../inventory/wireReader.ts';
import { type Field, flattened, spanId, traceId } from '../lines/index.ts';
import { standsFor } from '../spans/sampled.ts';
import { SPAN_KINDS, SPAN_LIMITS, type Span, type SpanEvent } from '../spans/span.ts';
import { toTheEnd } from '../steps/index.ts';
import { BadPart, hexOf, items, itemsByResource, number, type OfResource, plainValue } from './requestParts.ts';
import { FAILED_STATUS, FIELD } from './wire-names.ts';

export interface PushedTraces {
  readonly resources: readonly OfResource<Span>[];
  readonly refused: number;
  /** Why the first of those was refused. */
  readonly problem: string | null;
}
const MOST = { resources: 500, items: 50_000 };
/** How far ahead of us a clock may be, and how old a span, ms. */
const AHEAD = 10 * 60_000;
const OLD = 7 * 86_400_000;

/** Spans of a traces request of the open telemetry protocol. A bad span costs that span. `now` in ms. */
export function readSpans(request: unknown, now: number): PushedTraces {
  return toTheEnd(readSpansBySteps(request, now));
}
/** The same, span by span. */
export function readSpansBySteps(request: unknown, now: number): Generator<void, PushedTraces> {
  return itemsByResource(request, [FIELD.spans, FIELD.scopeSpans, FIELD.spanList], MOST, (wire) => spanOf(wire, now));
}

const millis = (wire: Wire, field: string): number => Math.round((number(wire, field) ?? 0) / 1000) / 1000;
const attributesOf = (wire: Wire): Field[] =>
  items(wire, FIELD.attributes, 1000)
    .flatMap((one) => {
      const pair = asWire(one);
      const key = pair[FIELD.key];
      return typeof key === 'string' && key !== '' ? flattened(plainValue(child(pair, FIELD.value)), key) : [];
    })
    .slice(0, SPAN_LIMITS.fields);

function spanOf(wire: Wire, now: number): Span {
  const own = { traceId: traceId(hexOf(wire[FIELD.traceId])), spanId: spanId(hexOf(wire[FIELD.spanId])) };
  if (own.traceId === '' || own.spanId === '') throw new BadPart('a span has no trace id or span id that is valid');
  const at = millis(wire, FIELD.start);
  const end = millis(wire, FIELD.end);
  if (at <= 0 || end < at) throw new BadPart('a span ends before it begins, or says no time');
  if (end > now + AHEAD) throw new BadPart('the time of a span lies in the future');
  if (end < now - OLD) throw new BadPart('a span is older than is taken');
  const status = child(wire, FIELD.status);
  const stands = standsFor(text(wire, FIELD.traceState));
  return {
    ...own,
    parentId: spanId(hexOf(wire[FIELD.parentId])),
    name: storable(text(wire, FIELD.name), SPAN_LIMITS.name) || 'unnamed',
    kind: SPAN_KINDS[number(wire, FIELD.kind) ?? 0] ?? 'unspecified',
    at,
    took: Math.round((end - at) * 1000) / 1000,
    failed: number(status, FIELD.code) === FAILED_STATUS,
    message: storable(text(status, FIELD.message), SPAN_LIMITS.message),
    fields: attributesOf(wire),
    events: items(wire, FIELD.events, 10_000)
      .slice(0, SPAN_LIMITS.events)
      .map((one): SpanEvent => {
        const event = asWire(one);
        return {
          at: millis(event, FIELD.time),
          name: storable(text(event, FIELD.name), SPAN_LIMITS.name),
          fields: attributesOf(event),
        };
      }),
    links: items(wire, FIELD.links, 10_000)
      .slice(0, SPAN_LIMITS.links)
      .map((one) => traceId(hexOf(asWire(one)[FIELD.traceId])))
      .filter((id) => id !== ''),
    ...(stands > 1 && { stands }),
  };
}
