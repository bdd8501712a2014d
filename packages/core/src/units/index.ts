/** Milliseconds since 1970-01-01T00:00Z, whole. */
export type EpochMs = number;
/** A length of time in milliseconds. */
export type DurationMs = number;
/** Bytes, not bits; binary prefixes when shown. */
export type Bytes = number;
/** Processor cores: seconds of processor time per second. */
export type Cores = number;
/** Number of a series in the store, 1 … 2^31-1. */
export type SeriesId = number;

export const SECOND = 1000;
export const MINUTE = 60 * SECOND;
export const HOUR = 60 * MINUTE;
export const DAY = 24 * HOUR;

/** What a usage is counted in; every vital and every strip belongs to one. */
export type Resource = 'cpu' | 'memory';
export const RESOURCES: readonly Resource[] = ['cpu', 'memory'];
