import { Injectable } from '@nestjs/common';
import {
  foundSubjects,
  type JudgedLine,
  lineName,
  type MeasureCondition,
  type Occurrence,
  occurrenceLines,
  pathOfLabels,
  SEVERITY_THRESHOLDS,
} from '@zetopsis/answers/rules';
import type { ObjectPath, RuleDocument } from '@zetopsis/contract';
import { valueWords } from '@zetopsis/core/measures';
import { conditionOf, type RuleLevel } from '@zetopsis/core/rules';
import { LONGEST_REHEARSAL } from '../../asking/measures/evaluations.service.ts';
import { UsageService } from '../../asking/usage/usage.service.ts';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { questionNow } from '../../ground/platform/question.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { thresholdsOf } from './clustersJudged.ts';
import { isOnLines, MeasureLooks, type OnLines } from './measureLooks.service.ts';
import { isInClusters, OccurrenceLooks } from './occurrenceLooks.service.ts';
import { FOUND_IN, RuleLooks } from './ruleLooks.service.ts';

/** One object that a rule would have looked at. */
export interface PastLine {
  readonly line: JudgedLine;
  readonly path: ObjectPath;
  readonly name: string;
}
/** What a rule would have looked at over some moments. */
export interface Past {
  readonly lines: readonly PastLine[];
  readonly condition: MeasureCondition;
  /** How a value is said. */
  readonly words: (value: number) => string;
  readonly unit: string | null;
  readonly shownAs: string | null;
  readonly notes: readonly string[];
  /** Where more moments are looked at than were asked for. */
  readonly moments?: Float64Array;
}
interface Asked {
  readonly document: RuleDocument;
  readonly moments: Float64Array;
  /** Whether the rule looks at it, and who asks may see it. */
  readonly sees: (path: ObjectPath, chosen?: boolean) => boolean;
}
/** Each is a value at every moment, in memory. */
const MOST_OBJECTS = 1000;
const MOST_TURNS = 2000;

/** What each kind of rule would have looked at in the past. */
@Injectable()
export class PastLooks {
  constructor(
    private readonly measureLooks: MeasureLooks,
    private readonly occurrences: OccurrenceLooks,
    private readonly looks: RuleLooks,
    private readonly usage: UsageService,
    private readonly connections: ConnectionsService,
  ) {}

  lines(asked: Asked): Promise<Past> {
    const { when } = asked.document;
    if (isInClusters(when)) return this.happened(asked);
    if (when.is === 'finding') return this.found(asked);
    if (when.is === 'not read') return this.silent(asked);
    const measured = measuredAs(when);
    if (measured !== null) return this.measured(asked, measured);
    throw new Refusal(
      'invalid',
      `“${conditionOf(when).title}” is judged by how things stand, of which no history is kept: put the rule on trial to see what it would raise.`,
      [{ path: 'document.when', text: 'cannot be rehearsed' }],
    );
  }

  private async measured({ document, moments, sees }: Asked, condition: OnLines): Promise<Past> {
    const { when, team } = document;
    const rule = asMeasured({ ...document, when: condition });
    const worked = await this.measureLooks.lines({
      condition,
      team,
      reach: this.looks.reachOf(document),
      times: Array.from(moments),
      longest: LONGEST_REHEARSAL,
    });
    const { thresholdsAt, compare } = this.measureLooks.lineCondition(rule);
    // whatever is said of it, the curve too, is of what the rule looks at
    const lines = worked.lines
      .map((line) => ({ line, path: pathOfLabels(line.labels, worked.workloadOf) }))
      .filter(({ path }) => sees(path))
      .map(({ line, path }) => ({
        line:
          document.overrides.length === 0 && Object.keys(document.stricter).length === 0
            ? line
            : { ...line, thresholds: thresholdsAt(path) },
        path,
        name: lineName(line, path),
      }));
    const amount = (value: number) => valueWords(value, worked.unit, worked.shownAs);
    const live = when.is === 'container memory' || when.is === 'fewer ready';
    return {
      lines,
      condition: { compare, rule: document.name, thresholds: thresholdsOf(rule) },
      words: (value) => conditionOf(condition).boundWords(value, amount),
      unit: condition.is === 'unusual' ? 'bands' : worked.unit,
      shownAs: condition.is === 'unusual' ? null : worked.shownAs,
      notes: [
        ...worked.notes,
        ...(live
          ? ['Rehearsed as a measure at the moments above; live it is judged with each reading or change.']
          : []),
      ],
    };
  }

  private async happened({ document, moments, sees }: Asked): Promise<Past> {
    const { when, applies } = document;
    if (!isInClusters(when)) throw new Error('only what happens in clusters comes here');
    const all: Occurrence[] = [];
    // what is the same in another cluster is another thing
    for (const id of this.connections.ids())
      for (const one of await this.occurrences.within({ when, applies }, id, moments[0]!, moments.at(-1)! + 1))
        all.push({ ...one, key: `${id} ${one.key}` });
    const seen = await seenOf(all, sees);
    return this.graded(document, occurrenceLines(seen, moments, MOST_OBJECTS), [
      ...(when.is === 'cluster event' ? ['Of an event that was said several times the last time is known.'] : []),
    ]);
  }
  private async silent({ document, moments, sees }: Asked): Promise<Past> {
    const { found, more } = await this.occurrences.silentWithin(moments[0]!, moments.at(-1)! + 1);
    const seen = await seenOf(found, sees);
    const all = withTurns(moments, seen);
    const past = this.graded(document, occurrenceLines(seen, all, MOST_OBJECTS), [
      'That a cluster was read in part, or that a sender was late, is not known of the past.',
      ...(more ? ['Only the newest silences are looked at: there were too many.'] : []),
    ]);
    return { ...past, moments: all };
  }
  /** Worked out anew at each moment, as Now does it for a past moment. */
  private async found({ document, moments, sees }: Asked): Promise<Past> {
    const { when } = document;
    if (when.is !== 'finding') throw new Error('only what is found comes here');
    const reach = this.looks.reachOf(document);
    const begins = Date.now();
    const all: Occurrence[] = [];
    let looked = 0;
    for (const [i, at] of moments.entries()) {
      if (questionNow()?.left === true || Date.now() - begins > LONGEST_REHEARSAL) break;
      for (const id of this.connections.ids()) {
        if (!reach.touches(this.connections.nameOf(id)) || this.connections.access(id) === null) continue;
        const seen = await this.usage.seen(reach, id, this.usage.window(at - FOUND_IN, at));
        for (const subject of foundSubjects(seen, when.codes)) {
          const { warning, critical } = subject.verdicts(at);
          const since = warning.is === 'holds' ? warning.since : undefined;
          all.push({
            key: `${id} ${subject.key}`,
            path: subject.path,
            name: subject.name,
            severity: critical.is === 'holds' ? 'critical' : 'warning',
            from: at,
            ...(since === undefined ? {} : { since }),
            to: moments[i + 1] ?? null,
            reason: subject.value(at),
            evidence: '',
            nextStep: '',
            chosen: false,
          });
        }
      }
      looked = i + 1;
      questionNow()?.goesOn('judging', looked / moments.length);
    }
    const lines = occurrenceLines(await seenOf(all, sees), moments.subarray(0, looked), MOST_OBJECTS);
    const whole = looked === moments.length;
    return this.graded(document, lines, [
      'What is found is worked out anew at each of these moments: what came and went between two of them is not seen.',
      ...(whole ? [] : [`It took too long: only the first ${looked} of ${moments.length} moments were looked at.`]),
    ]);
  }
  private graded(
    document: RuleDocument,
    { lines, left }: { readonly lines: readonly PastLine[]; readonly left: number },
    notes: readonly string[],
  ): Past {
    const { side, bounds } = SEVERITY_THRESHOLDS;
    const of = (level: RuleLevel | null, bound: number) => level && { ...level, bound };
    const { warning, critical } = document.levels;
    return {
      lines,
      condition: {
        compare: 'above',
        rule: document.name,
        thresholds: {
          levels: { warning: of(warning, bounds.warning), critical: of(critical, bounds.critical) },
          clears: { bound: null, low: null },
          side,
        },
      },
      words: (value) => (value > bounds.critical ? 'critical' : 'warning'),
      unit: null,
      shownAs: null,
      notes: [
        ...notes,
        ...(left > 0
          ? [`Only the ${lines.length} objects that it happened to last are looked at, of ${lines.length + left}.`]
          : []),
      ],
    };
  }
}
/** Live it is looked at all the time: moments at which something begins or ends are looked at too, as far as they are not too many. */
function withTurns(moments: Float64Array, of: readonly Occurrence[]): Float64Array {
  const [first, last] = [moments[0]!, moments.at(-1)!];
  const turns = of.slice(0, MOST_TURNS / 2).flatMap(({ from, to }) => (to === null ? [from] : [from, to]));
  return Float64Array.from(new Set([...moments, ...turns.filter((at) => at > first && at < last)])).sort();
}
/** What the rule looks at and who asks may see; whatever was chosen by the rule already is of what it looks at. */
async function seenOf(all: readonly Occurrence[], sees: Asked['sees']): Promise<Occurrence[]> {
  const seen: Occurrence[] = [];
  await inPieces(all, (one) => {
    if (sees(one.path, one.chosen)) seen.push(one);
  });
  return seen;
}

/** A condition of things as they stand is one of their figures, where it is measured: fewer ready than desired is below all of it. */
function measuredAs(when: RuleDocument['when']): OnLines | null {
  if (isOnLines(when)) return when;
  const text = conditionOf(when).measure(when);
  return text === null ? null : { is: 'measure', text, compare: when.is === 'fewer ready' ? 'below' : 'above' };
}
function asMeasured(document: RuleDocument & { readonly when: OnLines }): RuleDocument & { readonly when: OnLines } {
  const { levels } = document;
  if (
    conditionOf(document.when).measure(document.when) === null ||
    levels.warning?.bound != null ||
    levels.critical?.bound != null
  )
    return document;
  const all = (level: RuleLevel | null) => level && { ...level, bound: 1 };
  // how grave it is, is not known of the past: the lowest level that is set
  const lowest = levels.warning
    ? { warning: all(levels.warning), critical: null }
    : { warning: null, critical: all(levels.critical) };
  return { ...document, levels: lowest };
}
