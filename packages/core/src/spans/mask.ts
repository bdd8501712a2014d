import { type MaskedCounts, masked, maskedField, type OwnPattern } from '../lines/index.ts';
import type { Span } from './span.ts';

/** A span with its secrets taken out: its name, message, attributes and those of its events. */
export function maskedSpan(span: Span, counts: MaskedCounts, own: readonly OwnPattern[] = []): Span {
  return {
    ...span,
    name: masked(span.name, counts, own),
    message: masked(span.message, counts, own),
    fields: span.fields.map((field) => maskedField(field, counts, own)),
    events: span.events.map(({ at, name, fields }) => ({
      at,
      name: masked(name, counts, own),
      fields: fields.map((field) => maskedField(field, counts, own)),
    })),
  };
}
