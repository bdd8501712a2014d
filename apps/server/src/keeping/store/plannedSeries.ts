import type { Labels } from '@zetopsis/core/series';
import { VITAL_LABELS } from '@zetopsis/core/vitals';
import type { Bound, SeriesLimits } from './storeLimits.ts';

/** What there would be if all were taken that were so far. */
export class Planned {
  private inAll: number;
  private own: number;
  private readonly ofTeam = new Map<string, number>();
  constructor(now: { readonly inAll: number; readonly own: number }) {
    this.inAll = now.inAll;
    this.own = now.own;
  }
  /** The limit that one more would exceed; null: it is taken. */
  exceeded(limits: SeriesLimits, team: string | null, countNow: () => number): Bound | null {
    if (this.inAll >= limits.inAll) return 'inAll';
    if (this.own >= limits.perEndpoint) return 'perEndpoint';
    if (team !== null) {
      const count = this.ofTeam.get(team) ?? countNow();
      if (count >= limits.perTeam) return 'perTeam';
      this.ofTeam.set(team, count + 1);
    }
    this.inAll++;
    this.own++;
    return null;
  }
}

export const namespaceOf = (labels: Labels): string =>
  labels.find(([name]) => name === VITAL_LABELS.namespace)?.[1] ?? '';
