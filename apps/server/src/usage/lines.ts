import type { UsageLines } from '@zetopsis/core/usage';

/** For an answer: null where nothing is known. */
export const listed = (values: Float64Array): (number | null)[] =>
  Array.from(values, (value) => (Number.isNaN(value) ? null : value));

export const linesOf = (lines: UsageLines, against: Float64Array | null) => ({
  use: listed(lines.use),
  request: listed(lines.request),
  limit: listed(lines.limit),
  against: against === null ? null : listed(against),
});
