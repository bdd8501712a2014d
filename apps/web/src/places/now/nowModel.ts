import type { NowAnswer } from '@zetopsis/contract';

type Alert = NowAnswer['alerts'][number];

const RANK = { critical: 0, warning: 1 } as const;

/** Gravest first, then newest. */
export function sortAlerts(alerts: readonly Alert[]): Alert[] {
  return [...alerts].sort((a, b) => RANK[a.severity] - RANK[b.severity] || b.raisedAt - a.raisedAt);
}

/** A workload that an open alert already tells about stands there, not here. */
export function failingWithoutAlert({ failing, alerts }: NowAnswer): NowAnswer['failing'] {
  const told = new Set(alerts.map(({ path }) => path.slice(0, 3).join('/')));
  return failing.filter(({ path }) => !told.has(path.join('/')));
}
