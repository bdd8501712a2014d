import type { AuditEntry } from '@zetopsis/contract';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { AuditService } from '../../ground/audit/audit.service.ts';
import { ClusterTurns } from './clusterTurns.ts';

/** An audit log in memory, at a clock that the test moves. */
class Log {
  now = 0;
  readonly entries: AuditEntry[] = [];
  async noteOwn(of: { action: string; on: string; detail: string; outcome?: AuditEntry['outcome'] }): Promise<void> {
    const { length: id } = this.entries;
    this.entries.push({ id, at: this.now, by: 'zetopsis', who: 'Zetopsis', from: '', outcome: 'done', ...of });
  }
  async ownOf({ action, on, to, most }: Parameters<AuditService['ownOf']>[0]): Promise<AuditEntry[]> {
    return this.entries
      .filter((own) => own.action.startsWith(action) && (on === null || own.on === on) && own.at <= to)
      .reverse()
      .slice(0, most);
  }
}
const step = fc.oneof(
  fc.constantFrom('connecting' as const, 'reading' as const, 'partly reading' as const, 'blind' as const),
  fc.constant('start' as const),
);

describe('the turns of a cluster', () => {
  it('are known of any stretch of time, over stops and starts', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(step, { maxLength: 30 }), fc.nat(30), fc.nat(30), async (steps, a, b) => {
        const log = new Log();
        const turns = new ClusterTurns(log as never);
        let note = await turns.noterOf('seaward');
        /** Whether it was blind at each moment; who only tries again, or starts, knows nothing new. */
        const blind: boolean[] = [];
        for (const [at, one] of steps.entries()) {
          log.now = at;
          if (one === 'start') note = await turns.noterOf('seaward');
          else note({ state: one, reason: 'why' });
          const before = blind.at(-1) ?? false;
          blind.push(one === 'start' || one === 'connecting' ? before : one === 'blind');
        }
        const [from, to] = [Math.min(a, b), Math.max(a, b)];
        const spans = await turns.within(from, to);
        for (let at = from; at <= Math.min(to, blind.length - 1); at++) {
          const held = spans.filter((own) => own.from <= at && (own.to === null || own.to > at));
          expect([at, held.length]).toEqual([at, blind[at] ? 1 : 0]);
        }
        expect(await new ClusterTurns(log as never).within(0, -1)).toEqual([]);
      }),
    );
  });
});
