import { Injectable } from '@nestjs/common';
import { flapsIn, selectsAll } from '@zetopsis/answers/rules';
import {
  EVERYTHING,
  type LateAnswer,
  type ObjectPath,
  placeOf,
  type RehearsalAnswer,
  type RehearsalInput,
  type RehearsalProgress,
  type RuleDocument,
  readPath,
  touches,
  writePath,
} from '@zetopsis/contract';
import { formatDuration } from '@zetopsis/core/format';
import { conditionOf, isWithinHours, timesOf } from '@zetopsis/core/rules';
import { DAY, type DurationMs, type EpochMs, MINUTE, SECOND } from '@zetopsis/core/units';
import { Evaluations } from '../../asking/measures/evaluations.service.ts';
import type { Asker } from '../../asking/owners/keptForTeams.service.ts';
import { OwnersService } from '../../asking/owners/owners.service.ts';
import { StretchesService } from '../../asking/stretches/stretches.service.ts';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { inPieces, Pieces } from '../../ground/platform/inPieces.ts';
import { type Question, questionNow } from '../../ground/platform/question.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import { AlertsService, MOST_OF_RULE } from '../../keeping/alerts/alerts.service.ts';
import { KeptRules } from './keptRules.service.ts';
import { JUDGED_EVERY } from './measureLooks.service.ts';
import { nightsIn } from './nights.ts';
import { HAPPENED_EVERY, isDated } from './occurrenceLooks.service.ts';
import { type PastLine, PastLooks } from './pastLooks.service.ts';
import { RuleLooks } from './ruleLooks.service.ts';

/** Judged at most so often in one rehearsal. */
const MOST_MOMENTS = 3000;
const LONGEST = 90 * DAY;
const MOST_RAISED = 500;
const MOST_TROUBLES = 200;
/** What is found wrong is worked out anew for each moment: so often at most. */
const MOST_LOOKS = 60;

/** What a rule would have done over what is kept, told to nobody. */
@Injectable()
export class Rehearsals {
  /** Those that somebody waits for, by who asked and by its name. */
  private readonly running = new Map<string, Question>();

  constructor(
    private readonly evaluations: Evaluations,
    private readonly past: PastLooks,
    private readonly looks: RuleLooks,
    private readonly alerts: AlertsService,
    private readonly stretches: StretchesService,
    private readonly kept: KeptRules,
    private readonly owners: OwnersService,
    private readonly configuration: ConfigurationService,
    private readonly settings: Settings,
    private readonly clock: Clock,
  ) {}

  /** The same for somebody who may ask how far it is. */
  async asked(asker: Asker, input: RehearsalInput): Promise<RehearsalAnswer> {
    const question = questionNow();
    if (input.id === undefined || asker.person === null || question === null) return this.rehearse(asker, input);
    const key = `${asker.person.name} ${input.id}`;
    this.running.set(key, question);
    try {
      return await this.rehearse(asker, input);
    } finally {
      this.running.delete(key);
    }
  }
  progressOf(person: string, id: string): RehearsalProgress {
    const question = this.running.get(`${person} ${id}`);
    if (question === undefined) throw new Refusal('notFound', 'No such rehearsal is going on.');
    return question.progress ?? { doing: 'reading', share: null };
  }
  async rehearse(asker: Asker, input: RehearsalInput): Promise<RehearsalAnswer> {
    const { document, from } = input;
    this.kept.demandChange(asker, document.team);
    const began = performance.now();
    const end = this.endOf(input);
    const { own, step } = this.rhythmOf(document, from, end);
    const judged = momentsOf(from, end, step);
    // what happened is known to the moment: how it stands at the end is seen as well
    if (isDated(document.when) && judged.at(-1)! < end) judged.push(end);
    const asked = Float64Array.from(judged);
    const looked = await this.past.lines({
      document,
      moments: asked,
      sees: (path, chosen = false) =>
        asker.reach.sees(placeOf(path)) && this.looks.isLookedAt(document, path, { chosen }),
    });
    const { moments = asked } = looked;
    const named = looked.lines.map(({ name, path }) => ({ name, path, owner: this.toldOf(document, path) }));
    const troubles = await this.troublesIn(asker, document, looked.lines, { from, to: end });
    const { raised, curve, more, leads, drawn } = await this.evaluations.rehearse({
      rehearsing: {
        condition: looked.condition,
        times: timesOf(document.levels, document.clears.afterSeconds),
        open:
          document.hours === null ? null : Uint8Array.from(moments, (at) => Number(isWithinHours(document.hours!, at))),
        troubles: troubles.map(({ from: since, to, lines }) => ({ from: since, to, lines })),
      },
      times: moments,
      lines: looked.lines.map(({ line }) => line),
    });
    const compared = conditionOf(document.when).bounded(document.when);
    // what is still raised is counted to the last judging everywhere: in the sum, the curve and the rows
    const last = moments.at(-1) ?? end;
    const all = raised
      .map((one) => ({ ...one, subject: String(one.line), owner: named[one.line]!.owner }))
      .sort((a, b) => b.raisedAt - a.raisedAt);
    return {
      from,
      to: last,
      step,
      objects: looked.lines.length,
      raised: all.slice(0, MOST_RAISED).map(({ line, severity, since, raisedAt, endedAt, most, owner }) => ({
        name: named[line]!.name,
        path: writePath(named[line]!.path),
        team: owner,
        severity,
        since,
        raisedAt,
        endedAt,
        most: most === null ? '' : looked.words(most),
      })),
      left: Math.max(0, all.length - MOST_RAISED),
      messages: this.messagesOf(all),
      flapping: flapsIn(all),
      raisedMinutes: all.reduce((sum, { raisedAt, endedAt }) => sum + ((endedAt ?? last) - raisedAt), 0) / MINUTE,
      curve: compared ? [...curve] : [],
      drawn: {
        times: compared ? [...drawn.times] : [],
        lines: compared
          ? drawn.lines.map(({ line, values }) => ({ name: named[line]!.name, values: [...values] }))
          : [],
      },
      troubles: troubles.map(({ title, path, from: since, to }, i) => ({
        title,
        path,
        from: since,
        to,
        lead: leads[i]!,
      })),
      unit: looked.unit,
      shownAs: looked.shownAs,
      notes: [
        ...looked.notes,
        ...(more ? [`It would have been raised more than ${raised.length} times: the rest is not counted.`] : []),
        ...(step > own
          ? [`So long a window is judged every ${formatDuration(step)} instead of every ${formatDuration(own)}.`]
          : []),
        ...(selectsAll(document.applies) ? [] : ['Which objects it applies to is as it is now.']),
      ],
      took: performance.now() - began,
    };
  }
  /** What a rule raised in the last day, beside what it would raise over what is kept now. */
  async late(asker: Asker, key: string): Promise<LateAnswer> {
    const { id, key: _key, judgedMs, ...document } = await this.kept.look(asker, key);
    this.kept.demandChange(asker, document.team);
    const now = this.clock.now();
    const to = judgedMs === null || judgedMs <= 0 ? now : judgedMs;
    const changedAt = (await this.configuration.versionsOf('rule', key, 1))[0]?.revision.at ?? 0;
    const from = Math.max(now - DAY, changedAt);
    if (to - from < MINUTE)
      throw new Refusal('conflict', 'It has not been judged for long enough since it was changed.');
    const [{ raised: newest, left }, alerts] = await Promise.all([
      this.rehearse(asker, { document, from, to }),
      this.alerts.ofRule(asker.reach, id, from),
    ]);
    // as far back as both are there whole; what was held already when the rule was changed, or the day began, is of before
    const whole = Math.max(
      from,
      left > 0 ? Math.min(...newest.map(({ raisedAt }) => raisedAt)) : 0,
      alerts.length >= MOST_OF_RULE ? Math.min(...alerts.map(({ raisedAt }) => raisedAt)) : 0,
    );
    const raised = newest.filter(({ since }) => since >= whole);
    const recorded = alerts.filter(({ since }) => since >= whole);
    const overlaps = (a: { since: EpochMs; endedAt: EpochMs | null }, b: { since: EpochMs; endedAt: EpochMs | null }) =>
      a.since <= (b.endedAt ?? to) && b.since <= (a.endedAt ?? to);
    const same = (one: (typeof raised)[number]) =>
      recorded.some((own) => own.path.join('/') === one.path.join('/') && overlaps(own, one));
    return {
      from: whole,
      to,
      same: raised.filter(same).length,
      wouldHave: raised
        .filter((one) => !same(one))
        .map(({ name, path, severity, since, endedAt }) => ({ name, path, severity, since, endedAt })),
      wouldNotHave: recorded
        .filter((own) => !raised.some((one) => own.path.join('/') === one.path.join('/') && overlaps(own, one)))
        .map(({ title, path, severity, since, endedAt }) => ({ title, path, severity, since, endedAt })),
    };
  }
  private endOf({ from, to }: RehearsalInput): EpochMs {
    const end = Math.min(to, this.clock.now());
    if (end - from > LONGEST) throw new Refusal('invalid', 'A rehearsal looks at 90 days at most.');
    if (end <= from) throw new Refusal('invalid', 'The window lies in the future. Choose an earlier one.');
    return end;
  }
  private rhythmOf({ judgedSeconds, when }: RuleDocument, from: EpochMs, end: EpochMs) {
    const own = isDated(when)
      ? Math.max(HAPPENED_EVERY, (judgedSeconds ?? 0) * SECOND)
      : judgedSeconds === null
        ? JUDGED_EVERY
        : judgedSeconds * SECOND;
    const least = (end - from) / (when.is === 'finding' ? MOST_LOOKS : MOST_MOMENTS);
    return { own, step: own >= least ? own : Math.ceil(least / MINUTE) * MINUTE };
  }
  /** What really was trouble then: critical alerts of whatever other rule, and stretches that people marked as such. */
  private async troublesIn(
    asker: Asker,
    document: RuleDocument,
    lines: readonly PastLine[],
    window: { readonly from: EpochMs; readonly to: EpochMs },
  ): Promise<{ title: string; path: string[]; from: EpochMs; to: EpochMs; lines: number[] }[]> {
    const alerts = (await this.alerts.within({ reach: asker.reach, ...window, limit: MOST_TROUBLES }))
      .filter(({ severity, trial, rule }) => severity === 'critical' && !trial && rule !== document.name)
      .map(({ title, path, since, endedAt }) => ({ title, path, from: since, to: endedAt ?? window.to }));
    const marked = this.stretches
      .within(asker, window.from, window.to)
      .filter(({ document: { kind } }) => kind === 'trouble')
      .map(({ document: { title, scope, from, to } }) => ({
        title,
        path: scope,
        from: Date.parse(from),
        to: to === null ? window.to : Date.parse(to),
      }));
    const found: { title: string; path: string[]; from: EpochMs; to: EpochMs; lines: number[] }[] = [];
    const pieces = new Pieces();
    for (const one of [...alerts, ...marked]) {
      if (one.to < window.from || one.from > window.to) continue;
      const at = readPath(one.path) ?? EVERYTHING;
      const about: number[] = [];
      await inPieces(
        lines.entries(),
        ([i, { path }]) => {
          if (touches(path, at)) about.push(i);
        },
        pieces,
      );
      if (about.length > 0) found.push({ ...one, lines: about });
      if (found.length >= MOST_TROUBLES) break;
    }
    return found;
  }
  private toldOf({ tells, team }: RuleDocument, path: ObjectPath): string | null {
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
