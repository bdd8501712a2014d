import { type Emptiness, emptyBecause } from '@zetopsis/core/emptiness';
import type { UsageLines } from '@zetopsis/core/usage';

/** For an answer: null where nothing is known. */
export const listed = (values: Float64Array): (number | null)[] =>
  Array.from(values, (value) => (Number.isNaN(value) ? null : value));

export const isUnread = (values: Float64Array): boolean => values.every((value) => Number.isNaN(value));
/** `why`: what it is that nothing was read, where nothing was. */
export const linesOf = (lines: UsageLines, against: Float64Array | null, why: Emptiness = emptyBecause('notRead')) => ({
  empty: isUnread(lines.use) ? why : null,
  use: listed(lines.use),
  request: listed(lines.request),
  limit: listed(lines.limit),
  against: against === null ? null : listed(against),
});
