import { Injectable } from '@nestjs/common';
import {
  departures,
  type JudgedMeasure,
  type LineCondition,
  lineSubjects,
  pathOfLabels,
  usualByHour,
  usualOfQuiet,
} from '@zetopsis/answers/rules';
import { clusterOf, type ObjectPath, type RuleDocument } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { type Labels, parseMeasure, withStep } from '@zetopsis/core/measures';
import { bothLevels, type Condition, type ConditionOf, conditionOf, stateShown } from '@zetopsis/core/rules';
import { DAY, type DurationMs, type EpochMs, HOUR, MINUTE } from '@zetopsis/core/units';
import { MeasuresService } from '../../asking/measures/measures.service.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import type { StateRow } from '../../keeping/alerts/alerts.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { ClustersJudged, thresholdsOf } from './clustersJudged.ts';
import type { Look, Rule } from './judgement.ts';

/** A measure is judged so often where nobody says otherwise. */
export const JUDGED_EVERY = MINUTE;
/** What had a value within this time and has none any more is missing. */
const MISSED_FROM = HOUR;
/** A quiet stretch is looked at so finely. */
const QUIET_POINTS = 300;

/** Conditions whose objects are lines of a measure. */
export type OnLines = ConditionOf['measure' | 'running out' | 'unusual'];
export const isOnLines = (condition: Condition): condition is OnLines => conditionOf(condition).lines;
type Judged = Pick<RuleDocument, 'name' | 'levels' | 'clears' | 'overrides' | 'stricter'> & { readonly when: OnLines };

/** Lines of a measure as what a rule looks at. */
@Injectable()
export class MeasureLooks {
  constructor(
    private readonly measures: MeasuresService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly clusters: ClustersJudged,
  ) {}

  async look({
    rule,
    condition,
    reach,
    momentsDue,
  }: {
    readonly rule: Rule;
    readonly condition: OnLines;
    readonly reach: Reach;
    readonly momentsDue: (every: DurationMs) => EpochMs[];
  }): Promise<Look> {
    const every = everyOf(rule);
    const moments = momentsDue(every);
    const of: Pick<Look, 'connectionOf' | 'keeps'> = {
      connectionOf: ({ path }) => this.connections.idOf(clusterOf(path) ?? '') ?? null,
      keeps: () => true,
    };
    const [first] = moments;
    if (first === undefined) return { ...of, moments, subjects: [], absent: () => null };
    const compare = compareOf(condition);
    const before = compare === 'missing' ? stepsBack(first, every, MISSED_FROM) : [];
    const measure = await this.lines({ condition, team: rule.team, reach, times: [...before, ...moments] });
    return {
      ...of,
      moments,
      subjects: lineSubjects(measure, this.lineCondition({ ...rule, when: condition })),
      absent: (row) => this.absent(row, compare, moments.at(-1)!),
      problem:
        measure.lines.length > 0
          ? null
          : this.measures.shownIn({ reach, person: null, team: rule.team }, conditionOf(condition).measure(condition)!)
              .problem,
    };
  }
  lineCondition(rule: Judged): LineCondition {
    const { when } = rule;
    return {
      compare: compareOf(when),
      thresholds: thresholdsOf(rule),
      thresholdsAt: this.clusters.thresholdsOf(rule),
      boundWords: conditionOf(when).boundWords,
      verb: when.is === 'running out' ? `comes to ${when.reaches} in` : '',
      rule: rule.name,
    };
  }
  /** What each line of the condition's measure is to be compared with its levels, and what was read for it. */
  async lines({
    condition,
    team,
    reach,
    times,
    longest,
  }: {
    readonly condition: OnLines;
    readonly team: string | null;
    readonly reach: Reach;
    readonly times: readonly EpochMs[];
    readonly longest?: number;
  }): Promise<JudgedMeasure & { readonly notes: readonly string[] }> {
    const asker = { reach, person: null, team };
    const asked = (text: string, at: ArrayLike<EpochMs>) =>
      this.measures.lines(asker, text, Float64Array.from(at), longest);
    const worked = await asked(conditionOf(condition).measure(condition)!, times); // what is on lines has a measure
    const measured = { ...worked, workloadOf: this.workloadOf };
    if (condition.is !== 'unusual' || worked.lines.length === 0) return measured;
    const { quiet, text, side, days } = condition;
    if (quiet !== null) {
      const known = await asked(text, quietMoments(quiet));
      const usual = usualOfQuiet(known.lines, times.length);
      return { ...measured, lines: departures(worked.lines, usual, side) };
    }
    const known = await asked(usualText(text, days), times);
    return {
      ...measured,
      lines: departures(worked.lines, usualByHour(known.lines), side),
      notes: [...worked.notes, ...known.notes],
    };
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
    if (path.is === 'node') return inventory.named('node', '', path.node) !== undefined;
    if (path.is === 'pod' || path.is === 'container')
      return inventory.named('pod', path.namespace, path.pod) !== undefined;
    return true;
  }
}

export const everyOf = ({ judgedSeconds }: Pick<Rule, 'judgedSeconds'>): DurationMs =>
  judgedSeconds === null ? JUDGED_EVERY : judgedSeconds * 1000;
const compareOf = (condition: OnLines): LineCondition['compare'] =>
  condition.is === 'measure' ? condition.compare : conditionOf(condition).side(condition);
function usualText(text: string, days: number): string {
  const read = parseMeasure(text);
  return 'body' in read ? withStep(read.body, `usual from ${days}d`) : text;
}
function quietMoments({ from, to }: { readonly from: string; readonly to: string }): EpochMs[] {
  const [begin, end] = [Date.parse(from), Date.parse(to)];
  const count = Math.min(QUIET_POINTS, Math.floor((end - begin) / MINUTE));
  // moments are whole: so they stand in the database
  return Array.from({ length: count }, (_, i) => Math.round(begin + ((i + 1) * (end - begin)) / count));
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
