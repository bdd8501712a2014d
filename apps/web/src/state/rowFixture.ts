import type { Figures, UsageRow } from '@zetopsis/contract';

/** Figures of something that uses 1 of 2, as near to its limit as is said; null: it has none. For tests. */
const figuresAt = (tightness: number | null): Figures => ({
  use: 1,
  mean: 1,
  peak: 1,
  request: null,
  limit: tightness === null ? null : 2,
  limitIs: tightness === null ? 'none' : 'limit',
  unlimited: null,
  tightness,
  heading: null,
});
/** One that is there and well. For tests. */
export const rowOf = (name: string, tightness: number | null, more: Partial<UsageRow> = {}): UsageRow => ({
  key: name,
  name,
  kind: null,
  severity: null,
  finding: null,
  present: true,
  goneAt: null,
  pods: 1,
  ready: null,
  desired: null,
  usage: { cpu: figuresAt(tightness), memory: figuresAt(tightness) },
  other: null,
  throttled: null,
  restarts: 0,
  memoryEnds: 0,
  age: null,
  owner: null,
  labels: {},
  against: null,
  pairing: null,
  ...more,
});
