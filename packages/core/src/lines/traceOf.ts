import type { Field } from './line.ts';

const NAMES: readonly string[] = ['trace_id', 'traceId', 'trace.id'];
const ID = /^[0-9a-f]{32}$/;

/** 32 hex digits that are not all zero; else empty. */
export function traceId(text: string): string {
  const lower = text.toLowerCase();
  return ID.test(lower) && !/^0+$/.test(lower) ? lower : '';
}
/** 16 hex digits that are not all zero; else empty. */
export function spanId(text: string): string {
  const lower = text.toLowerCase();
  return /^[0-9a-f]{16}$/.test(lower) && !/^0+$/.test(lower) ? lower : '';
}
/** The trace that a line's fields name, in one of the usual ways or as a `traceparent` (W3C Trace Context). Empty where none does. */
export function traceInFields(fields: readonly Field[]): string {
  for (const [name, value] of fields) {
    const id = NAMES.includes(name)
      ? traceId(value)
      : name === 'traceparent'
        ? traceId(/^[0-9a-f]{2}-([0-9a-f]{32})-[0-9a-f]{16}-[0-9a-f]{2}$/.exec(value)?.[1] ?? '')
        : '';
    if (id !== '') return id;
  }
  return '';
}
