import { Injectable } from '@nestjs/common';

/** How judging a rule went the last time. */
export interface RuleCost {
  readonly tookMs: number;
  readonly matched: number;
  /** Why it could not be judged; null while it can. */
  readonly problem: string | null;
}
/** What takes longer than this, once, is named. */
export const COSTLY_MS = 5000;

/** What judging costs, by the number of the rule. */
@Injectable()
export class RuleCosts {
  private readonly known = new Map<number, RuleCost>();
  of(ruleId: number): RuleCost | null {
    return this.known.get(ruleId) ?? null;
  }
  set(ruleId: number, cost: RuleCost): void {
    this.known.set(ruleId, cost);
  }
}
