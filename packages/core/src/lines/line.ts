import type { EpochMs } from '../units/index.ts';

/** How grave a line calls itself, mildest first; the short names of the open telemetry protocol's log data model. */
export const LINE_LEVELS = ['trace', 'debug', 'info', 'warning', 'error', 'fatal'] as const;
export type LineLevel = (typeof LINE_LEVELS)[number];
export type Field = readonly [name: string, value: string];

/** A line as it was sent: nothing of it is looked at yet. */
export interface SentLine {
  /** ms, with fractions down to a microsecond. */
  readonly at: EpochMs;
  /** The record's own severity, 1 to 24; 0 where it says none. */
  readonly severity: number;
  readonly text: string;
  readonly fields: readonly Field[];
  /** 32 and 16 hex digits; empty where there is none. */
  readonly traceId: string;
  readonly spanId: string;
}
/** A line with its parts found and its secrets taken out: the only form that is kept or shown. */
export interface Line {
  readonly at: EpochMs;
  readonly level: LineLevel | null;
  readonly text: string;
  readonly fields: readonly Field[];
  readonly traceId: string;
  readonly spanId: string;
  /** Its number among the wordings of its stream; 0 is any other. */
  readonly wording: number;
}

/** What bounds a line: it is somebody else's text. */
export const LINE_LIMITS = {
  /** Characters of its text; what is longer is cut, and ends with an ellipsis. */
  text: 32_768,
  fields: 64,
  fieldName: 128,
  fieldValue: 4096,
  /** How deep an object within a field is parted. */
  depth: 6,
} as const;
