import { Injectable } from '@nestjs/common';
import { flapsIn, lineName, pathOfLabels, selectsAll } from '@zetopsis/answers/rules';
import { type ObjectPath, placeOf, type RehearsalAnswer, type RehearsalInput, writePath } from '@zetopsis/contract';
import { valueWords } from '@zetopsis/core/measures';
import { conditionOf, timesOf } from '@zetopsis/core/rules';
import { DAY, type DurationMs, type EpochMs, MINUTE } from '@zetopsis/core/units';
import { Evaluations, LONGEST_REHEARSAL } from '../../asking/measures/evaluations.service.ts';
import { MeasuresService } from '../../asking/measures/measures.service.ts';
import type { Asker } from '../../asking/owners/keptForTeams.service.ts';
import { OwnersService } from '../../asking/owners/owners.service.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import { KeptRules } from './keptRules.service.ts';
import { JUDGED_EVERY, MeasureLooks } from './measureLooks.service.ts';
import { nightsIn } from './nights.ts';
import { RuleLooks, thresholdsOf } from './ruleLooks.service.ts';

/** Judged at most so often in one rehearsal. */
const MOST_MOMENTS = 3000;
const LONGEST = 90 * DAY;
const MOST_RAISED = 500;

/** What a rule would have done over what is kept, told to nobody. */
@Injectable()
export class Rehearsals {
  constructor(
    private readonly measures: MeasuresService,
    private readonly evaluations: Evaluations,
    private readonly measureLooks: MeasureLooks,
    private readonly looks: RuleLooks,
    private readonly kept: KeptRules,
    private readonly owners: OwnersService,
    private readonly settings: Settings,
    private readonly clock: Clock,
  ) {}

  async rehearse(asker: Asker, { document, from, to }: RehearsalInput): Promise<RehearsalAnswer> {
    this.kept.demandChange(asker, document.team);
    const began = performance.now();
    const definition = conditionOf(document.when);
    const text = definition.measure(document.when);
    if (text === null)
      throw new Refusal(
        'invalid',
        `“${definition.title}” is judged by how things stand, of which no history is kept as a measure: put the rule on trial to see what it would raise.`,
        [{ path: 'document.when', text: 'cannot be rehearsed' }],
      );
    const end = Math.min(to, this.clock.now());
    if (end - from > LONGEST) throw new Refusal('invalid', 'A rehearsal looks at 90 days at most.');
    if (end <= from) throw new Refusal('invalid', 'The window lies in the future. Choose an earlier one.');
    const own = document.judgedSeconds === null ? JUDGED_EVERY : document.judgedSeconds * 1000;
    const least = (end - from) / MOST_MOMENTS;
    const step = own >= least ? own : Math.ceil(least / MINUTE) * MINUTE;
    const reach = this.looks.reachOf(document);
    const condition = this.conditionAsMeasure(document);
    const moments = Float64Array.from(momentsOf(from, end, step));
    // what is still raised is counted to the last judging everywhere: in the sum, the curve and the rows
    const last = moments.at(-1) ?? end;
    const worked = await this.measures.lines(
      { reach, person: null, team: document.team },
      text,
      moments,
      LONGEST_REHEARSAL,
    );
    const { unit, shownAs } = worked;
    // whatever is said of it, the curve too, is of what the rule looks at
    const looked = worked.lines
      .map((line) => ({ line, path: pathOfLabels(line.labels, this.measureLooks.workloadOf) }))
      .filter(({ path }) => this.isLookedAt(document, asker, path));
    const named = looked.map(({ line: { labels, name }, path }) => ({
      name: lineName({ labels, name }, path),
      path,
      owner: this.toldOf(document, path),
    }));
    const { raised, curve, more } = await this.evaluations.rehearse({
      rehearsing: { condition, times: timesOf(document.levels, document.clears.afterSeconds) },
      times: moments,
      lines: looked.map(({ line }) => line),
    });
    const words = (value: number | null) => valueWords(value, unit, shownAs);
    const all = raised
      .map((one) => ({ ...one, subject: String(one.line), owner: named[one.line]!.owner }))
      .sort((a, b) => b.raisedAt - a.raisedAt);
    return {
      from,
      to: last,
      step,
      objects: looked.length,
      raised: all.slice(0, MOST_RAISED).map(({ line, severity, since, raisedAt, endedAt, most, owner }) => ({
        name: named[line]!.name,
        path: writePath(named[line]!.path),
        team: owner,
        severity,
        since,
        raisedAt,
        endedAt,
        most: most === null ? '' : words(most),
      })),
      left: Math.max(0, all.length - MOST_RAISED),
      messages: this.messagesOf(all),
      flapping: flapsIn(all),
      raisedMinutes: all.reduce((sum, { raisedAt, endedAt }) => sum + ((endedAt ?? last) - raisedAt), 0) / MINUTE,
      curve: definition.bounded(document.when) ? [...curve] : [],
      unit,
      shownAs,
      notes: [
        ...worked.notes,
        ...(more ? [`It would have been raised more than ${raised.length} times: the rest is not counted.`] : []),
        ...(step > own
          ? [`So long a window is judged every ${step / MINUTE} min instead of every ${own / 1000} s.`]
          : []),
        ...(document.when.is === 'container memory' || document.when.is === 'fewer ready'
          ? [`Rehearsed as a measure every ${step / 1000} s; live it is judged with each reading or change.`]
          : []),
        ...(selectsAll(document.applies) ? [] : ['Which objects it applies to is as it is now.']),
      ],
      took: performance.now() - began,
    };
  }
  /** A condition of things as they stand is one of their figures: fewer ready than desired is below all of it. */
  private conditionAsMeasure(document: RehearsalInput['document']) {
    const { when, levels, name } = document;
    if (when.is === 'fewer ready') {
      const all = (level: (typeof levels)['warning']) => level && { ...level, bound: 1 };
      // how grave it is, is not known of the past: the lowest level that is set
      const lowest = levels.warning
        ? { warning: all(levels.warning), critical: null }
        : { warning: null, critical: all(levels.critical) };
      return {
        compare: 'below' as const,
        rule: name,
        thresholds: { levels: lowest, clears: null, side: 'below' as const },
      };
    }
    const compare = when.is === 'measure' ? when.compare : conditionOf(when).side(when);
    return { compare, rule: name, thresholds: thresholdsOf(document) };
  }
  /** What the rule looks at, and who asks may see. */
  private isLookedAt(document: RehearsalInput['document'], asker: Asker, path: ObjectPath): boolean {
    if (!asker.reach.sees(placeOf(path))) return false;
    return this.looks.isLookedAt(document, path);
  }
  private toldOf({ tells, team }: RehearsalInput['document'], path: ObjectPath): string | null {
    const named = tells ?? team;
    if (named !== null) return this.owners.teams().find(({ key }) => key === named)?.name ?? named;
    return this.owners.ownerAt(path)?.name ?? null;
  }
  private messagesOf(
    all: readonly { readonly toldAt: readonly EpochMs[]; readonly owner: string | null }[],
  ): RehearsalAnswer['messages'] {
    const atNight = nightsIn(this.settings.config.zone);
    const byTeam = new Map<string, { team: string; all: number; nights: number }>();
    let unowned = 0;
    for (const { toldAt, owner } of all) {
      if (owner === null) {
        unowned += toldAt.length;
        continue;
      }
      const own = byTeam.get(owner) ?? { team: owner, all: 0, nights: 0 };
      own.all += toldAt.length;
      own.nights += toldAt.filter(atNight).length;
      byTeam.set(owner, own);
    }
    const teams = [...byTeam.values()].sort((a, b) => b.all - a.all);
    return {
      all: teams.reduce((sum, own) => sum + own.all, 0),
      nights: teams.reduce((sum, own) => sum + own.nights, 0),
      unowned,
      byTeam: teams,
    };
  }
}

function momentsOf(from: EpochMs, to: EpochMs, step: DurationMs): EpochMs[] {
  const first = Math.ceil(from / step) * step;
  return Array.from({ length: Math.max(1, Math.floor((to - first) / step) + 1) }, (_, i) =>
    Math.min(first + i * step, to),
  );
}
