import { Injectable } from '@nestjs/common';
import { criticalityIn } from '@zetopsis/answers/findings';
import { type JudgedCluster, SUBJECTS, type Subject } from '@zetopsis/answers/rules';
import { DEFAULT_ABOVE, ruleOf } from '@zetopsis/core/rules';
import type { Samples } from '@zetopsis/core/samples';
import { type EpochMs, HOUR, type SeriesId } from '@zetopsis/core/units';
import { CriticalityService } from '../../asking/owners/criticality.service.ts';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { timeoutFor } from '../../inflow/scraping/endpointReader.ts';
import { EndpointsService } from '../../inflow/scraping/endpoints.service.ts';
import { VitalsService } from '../../inflow/vitals/vitals.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';

import type { Rule } from './judgement.ts';

const MEMORY = 'container.memory.working_set';
/** Missed times are judged in order after an outage, this far back. */
const CATCH_UP = 2 * HOUR;
const EMPTY: Samples = { times: [], values: [] };

/** What a rule looks at, and when. */
@Injectable()
export class RuleSubjects {
  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly samples: SamplesService,
    private readonly vitals: VitalsService,
    private readonly endpoints: EndpointsService,
    private readonly criticality: CriticalityService,
    private readonly clock: Clock,
  ) {}

  /**
   * Measured values are judged once the readings for a moment are due (interval + time-out), in order, what was missed
   * included; a rule that has never judged begins one hold time back. Object states are judged as they are now.
   */
  momentsDue(rule: Rule, connectionId: string): EpochMs[] {
    const now = this.clock.now();
    if (!ruleOf(rule.kind).measured) return [now];
    if (!this.endpoints.settled(connectionId)) return [];
    const interval = this.connections.intervalOf(connectionId);
    const last = Math.floor((now - interval - timeoutFor(interval)) / interval) * interval;
    const first = Math.max(rule.judgedMs ?? now - rule.holdsSeconds * 1000 - 4 * interval, now - CATCH_UP);
    const moments: EpochMs[] = [];
    for (let at = Math.floor(first / interval) * interval + interval; at <= last; at += interval) moments.push(at);
    return moments;
  }

  async of(rule: Rule, connectionId: string, measured: boolean): Promise<Iterable<Subject>> {
    const series =
      measured && ruleOf(rule.kind).measured ? await this.memorySeries(connectionId) : new Map<string, SeriesId>();
    const name = this.connections.nameOf(connectionId);
    const inventory = this.inventory.cluster(connectionId);
    const view: JudgedCluster = {
      name,
      blind: this.connections.isBlind(connectionId),
      interval: this.connections.intervalOf(connectionId),
      inventory,
      criticalityOf: criticalityIn(inventory, this.criticality.of(name)),
      memoryOf: (podUid: string, container: string, since: EpochMs) => {
        const id = series.get(`${podUid}/${container}`);
        return id === undefined ? EMPTY : this.vitals.inUnit(connectionId, MEMORY, this.samples.recent(id, since));
      },
    };
    return SUBJECTS[rule.kind](view, rule.above ?? DEFAULT_ABOVE);
  }
  /** By pod and container; of two that name the same, the first counts. */
  private async memorySeries(connectionId: string): Promise<ReadonlyMap<string, SeriesId>> {
    const series = new Map<string, SeriesId>();
    await inPieces(this.vitals.select(connectionId, MEMORY), (id) => {
      const container = this.vitals.label({ connectionId, vital: MEMORY, id, role: 'container' });
      const key = `${this.vitals.podUid(connectionId, MEMORY, id)}/${container}`;
      if (!series.has(key)) series.set(key, id);
    });
    return series;
  }
}
