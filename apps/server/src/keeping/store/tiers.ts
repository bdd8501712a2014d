import { DAY, HOUR, MINUTE } from '@zetopsis/core/units';

export const FIVE = 5 * MINUTE;
/** No chunk is longer, so that a reader knows how far before its window one may begin. */
export const CHUNK_SPAN = 8 * HOUR;
export const CHUNK_SAMPLES = 480;

export const PARTITIONED = {
  journal: { period: 30 * MINUTE, settings: '' },
  line_journal: { period: 30 * MINUTE, settings: '' },
  span_journal: { period: 30 * MINUTE, settings: '' },
  trace_block: { period: DAY, settings: ' with (toast_tuple_target = 8160)' },
  line_block: { period: DAY, settings: ' with (toast_tuple_target = 8160)' },
  chunk: { period: DAY, settings: ' with (toast_tuple_target = 8160)' },
  rollup_five: { period: 7 * DAY, settings: ' with (toast_tuple_target = 8160)' },
  rollup_hour: { period: 30 * DAY, settings: ' with (toast_tuple_target = 8160)' },
} as const;
export type PartitionedTable = keyof typeof PARTITIONED;

/** Roll-ups of one bucket length: their table, and the stretch of time that one row may hold at most. */
export const TIERS = {
  five: { table: 'rollup_five', bucket: FIVE, row: DAY },
  hour: { table: 'rollup_hour', bucket: HOUR, row: 10 * DAY },
} as const;
export type Tier = keyof typeof TIERS;
/** Windows longer than this may be read from roll-ups, though their samples are still there. */
export const FIVES_FROM = 20 * HOUR;
export const HOURS_FROM = 12 * DAY;
/** What a window is read from: the samples themselves or a tier of roll-ups. */
export type Resolution = 'samples' | Tier;
