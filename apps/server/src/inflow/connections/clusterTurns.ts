import { Injectable } from '@nestjs/common';
import type { ConnectionAnswer } from '@zetopsis/contract';
import type { EpochMs } from '@zetopsis/core/units';
import { AuditService } from '../../ground/audit/audit.service.ts';

const TURNED = 'cluster turned ';
const MOST = 5000;

/** A stretch in which nothing was heard of a cluster. */
export interface BlindSpan {
  readonly cluster: string;
  readonly from: EpochMs;
  /** Null: it goes on. */
  readonly to: EpochMs | null;
  readonly reason: string;
}

/** When clusters turned blind, and when they were heard of again: noted in the audit log, and read from there. */
@Injectable()
export class ClusterTurns {
  constructor(private readonly audit: AuditService) {}

  /** What notes the turns of one cluster. One that was blind when the server stopped turns once it is heard of again. */
  async noterOf(cluster: string): Promise<(now: Pick<ConnectionAnswer, 'state' | 'reason'>) => void> {
    const [newest] = await this.audit.ownOf({ action: TURNED, on: cluster, to: Number.MAX_SAFE_INTEGER, most: 1 });
    let before: ConnectionAnswer['state'] = newest && turnedBlind(newest.action) ? 'blind' : 'connecting';
    return ({ state, reason }) => {
      // who only tries again has not turned
      if (state === before || state === 'connecting') return;
      if (state === 'blind' || before === 'blind')
        void this.audit.noteOwn({
          action: `${TURNED}${state}`,
          on: cluster,
          detail: reason ?? '',
          outcome: state === 'blind' ? 'failed' : 'done',
        });
      before = state;
    };
  }
  /** When which cluster was blind within a stretch of time, the oldest first. */
  async within(from: EpochMs, to: EpochMs): Promise<BlindSpan[]> {
    const turns = await this.audit.ownOf({ action: TURNED, on: null, to, most: MOST });
    const open = new Map<string, BlindSpan>();
    const spans: BlindSpan[] = [];
    for (const { at, action, on: cluster, detail } of turns.reverse()) {
      const span = open.get(cluster);
      if (turnedBlind(action)) {
        if (!span) open.set(cluster, { cluster, from: at, to: null, reason: detail });
        continue;
      }
      if (span && at > from) spans.push({ ...span, to: at });
      open.delete(cluster);
    }
    return [...spans, ...open.values()].sort((a, b) => a.from - b.from);
  }
}
const turnedBlind = (action: string): boolean => action === `${TURNED}blind`;
