import { Injectable } from '@nestjs/common';
import { type JudgedMeasure, lineSubjects, pathOfLabels } from '@zetopsis/answers/rules';
import { clusterOf, type ObjectPath } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import type { Labels } from '@zetopsis/core/measures';
import { bothLevels, type ConditionOf, conditionOf, stateShown } from '@zetopsis/core/rules';
import { DAY, type DurationMs, type EpochMs, HOUR, MINUTE } from '@zetopsis/core/units';
import { MeasuresService } from '../../asking/measures/measures.service.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import type { StateRow } from '../../keeping/alerts/alerts.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import type { Look, Rule } from './judgement.ts';

/** A measure is judged so often where nobody says otherwise. */
export const JUDGED_EVERY = MINUTE;
/** What had a value within this time and has none any more is missing. */
const MISSED_FROM = HOUR;

/** Lines of a measure as what a rule looks at. */
@Injectable()
export class MeasureLooks {
  constructor(
    private readonly measures: MeasuresService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
  ) {}

  async look({
    rule,
    condition,
    reach,
    momentsDue,
  }: {
    readonly rule: Rule;
    readonly condition: ConditionOf['measure'];
    readonly reach: Reach;
    readonly momentsDue: (every: DurationMs) => EpochMs[];
  }): Promise<Look> {
    const every = rule.judgedSeconds === null ? JUDGED_EVERY : rule.judgedSeconds * 1000;
    const moments = momentsDue(every);
    const of: Pick<Look, 'connectionOf' | 'keeps'> = {
      connectionOf: ({ path }) => this.connections.idOf(clusterOf(path) ?? '') ?? null,
      keeps: () => true,
    };
    const [first] = moments;
    if (first === undefined) return { ...of, moments, subjects: [], absent: () => null };
    const before = condition.compare === 'missing' ? stepsBack(first, every, MISSED_FROM) : [];
    const measure = await this.lines({ text: condition.text, team: rule.team, reach, times: [...before, ...moments] });
    const thresholds = { levels: rule.levels, clears: rule.clears.bound, side: conditionOf(condition).side(condition) };
    return {
      ...of,
      moments,
      subjects: lineSubjects(measure, { compare: condition.compare, thresholds, rule: rule.name }),
      absent: (row) => this.absent(row, condition.compare, moments.at(-1)!),
    };
  }
  async lines({
    text,
    team,
    reach,
    times,
  }: {
    readonly text: string;
    readonly team: string | null;
    readonly reach: Reach;
    readonly times: readonly EpochMs[];
  }): Promise<JudgedMeasure> {
    const worked = await this.measures.lines({ reach, person: null, team }, text, Float64Array.from(times));
    return { ...worked, workloadOf: this.workloadOf };
  }
  readonly workloadOf: JudgedMeasure['workloadOf'] = (cluster, namespace, pod) => {
    const id = this.connections.idOf(cluster);
    const found = id === undefined ? null : this.inventory.cluster(id).named('pod', namespace, pod);
    return found?.kind === 'pod' ? this.inventory.cluster(id!).workloadOf(found) : null;
  };

  /** A line that was known and was not answered: its object is gone, or nothing was read of it. */
  private absent({ subject, state }: StateRow, compare: string, at: EpochMs) {
    const path = pathOfLabels(labelsOf(subject), this.workloadOf);
    const shown = stateShown(state);
    const unseen =
      shown.kind === 'raised' ? shown.unseenSince : shown.kind === 'easing' ? shown.raised.unseenSince : null;
    if (!this.mayBeThere(path) || (unseen !== null && at - unseen > DAY)) return bothLevels({ is: 'gone' });
    const told = shown.kind === 'raised' || shown.kind === 'easing';
    return bothLevels(compare === 'missing' && told ? { is: 'holds' } : { is: 'noData' });
  }
  /** Of a blind cluster nobody knows. */
  private mayBeThere(path: ObjectPath): boolean {
    const id = this.connections.idOf(clusterOf(path) ?? '');
    if (id === undefined) return clusterOf(path) === null;
    if (this.connections.isBlind(id)) return true;
    const inventory = this.inventory.cluster(id);
    if (path.is === 'node') return inventory.named('node', '', path.node) !== null;
    if (path.is === 'pod' || path.is === 'container') return inventory.named('pod', path.namespace, path.pod) !== null;
    return true;
  }
}

function stepsBack(from: EpochMs, every: DurationMs, span: DurationMs): EpochMs[] {
  const steps: EpochMs[] = [];
  for (let at = from - every; at >= from - span; at -= every) steps.unshift(at);
  return steps;
}
/** As `lineKey` wrote them. */
function labelsOf(subject: string): Labels {
  try {
    const [labels] = JSON.parse(subject) as [[string, string][], string | null];
    return Object.fromEntries(labels);
  } catch {
    // kept of the rule when it looked at something else
    return {};
  }
}
