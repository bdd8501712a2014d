import { Injectable, type OnModuleInit } from '@nestjs/common';
import { type Subject, selectorSeen } from '@zetopsis/answers/rules';
import {
  placeOf,
  type RuleAnswer,
  RuleDocument,
  type RuleSheet,
  type StricterInput,
  writePath,
} from '@zetopsis/contract';
import { conditionOf, RULE_LEVELS, raisedSince, stateShown, worstRaised } from '@zetopsis/core/rules';
import { DAY } from '@zetopsis/core/units';
import { groupBy } from '@zetopsis/core/usage';
import { stringify } from 'yaml';
import { MeasuresService } from '../../asking/measures/measures.service.ts';
import { type Asker, KeptForTeams } from '../../asking/owners/keptForTeams.service.ts';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { linesBetween } from '../../ground/configuration/differences.ts';
import type { DocumentChange, DocumentProblem, Documents } from '../../ground/configuration/documents.ts';
import { freeKey } from '../../ground/configuration/freeKey.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { AlertsService, type StateRow } from '../../keeping/alerts/alerts.service.ts';
import type { Rule } from './judgement.ts';
import { isOnLines } from './measureLooks.service.ts';
import { RuleCosts } from './ruleCosts.ts';
import { RuleLooks } from './ruleLooks.service.ts';
import { countsOf, RulesService } from './rules.service.ts';

const MOST = 5000;
const MOST_VERSIONS = 50;
const MOST_OBJECTS = 500;
const HISTORY = 30 * DAY;

/** Rules as people see and change them. */
@Injectable()
export class KeptRules implements OnModuleInit {
  constructor(
    private readonly rules: RulesService,
    private readonly looks: RuleLooks,
    private readonly alerts: AlertsService,
    private readonly configuration: ConfigurationService,
    private readonly forTeams: KeptForTeams,
    private readonly measures: MeasuresService,
    private readonly costs: RuleCosts,
    private readonly clock: Clock,
  ) {}

  onModuleInit(): void {
    this.configuration.addCheck(problemsOf);
  }

  async list(asker: Asker): Promise<RuleAnswer[]> {
    const [rules, states, last] = await Promise.all([
      this.rules.known(),
      this.alerts.allStates(),
      this.alerts.lastRaised(),
    ]);
    const rows = groupBy(states, ({ ruleId }) => ruleId);
    return rules
      .filter(({ team }) => this.forTeams.sees(asker, team))
      .map((rule) => this.answer(asker, rule, rows.get(rule.id) ?? [], last.get(rule.id) ?? null));
  }
  private answer(asker: Asker, rule: Rule, rows: readonly StateRow[], lastRaisedAt: number | null): RuleAnswer {
    const { id, key, judgedMs, ...document } = rule;
    // how many objects it looks at, and how many alerts it has, speaks of all that it reaches
    const whole = this.forTeams.seesAllOf(asker, rule.team);
    const { building, raised, worst } = countsOf(rows);
    const cost = this.costs.of(id);
    const shown = this.shownIn(rule);
    return {
      key,
      document: whole
        ? (document as RuleDocument)
        : withoutNames(document as RuleDocument, asker, this.forTeams.teamsOf(asker)), // what is left of a rule
      owner: this.forTeams.nameOf(rule.team),
      unit: shown.unit,
      shownAs: shown.shownAs,
      problem: cost?.problem ?? shown.problem,
      mayChange: this.forTeams.mayChange(asker, rule.team),
      matched: whole && cost ? cost.matched : null,
      building: whole ? building : null,
      raised: whole ? raised : 0,
      worst: whole ? worst : null,
      lastRaisedAt: whole ? lastRaisedAt : null,
      // at no time is before all times: it was not judged yet
      judgedAt: judgedMs === null || judgedMs <= 0 ? null : judgedMs,
      tookMs: cost?.tookMs ?? null,
    };
  }
  /** What the bounds of a rule are counted in. */
  private shownIn({ when, team }: Pick<Rule, 'when' | 'team'>) {
    if (when.is === 'container memory') return { unit: '', shownAs: 'percent', problem: null };
    if (!isOnLines(when)) return { unit: null, shownAs: null, problem: null };
    const text = conditionOf(when).measure(when)!; // what is on lines has a measure
    return this.measures.shownIn({ reach: this.looks.reachOf({ team }), person: null, team }, text);
  }

  async sheet(asker: Asker, key: string): Promise<RuleSheet> {
    const rule = await this.look(asker, key);
    const [states, last] = await Promise.all([this.alerts.allStates(), this.alerts.lastRaised()]);
    const rows = states.filter(({ ruleId }) => ruleId === rule.id);
    const objects = rule.state === 'off' ? [] : await this.objects(asker, rule, rows);
    const found = await this.configuration.versionsOf('rule', key, MOST_VERSIONS);
    return {
      rule: this.answer(asker, rule, rows, last.get(rule.id) ?? null),
      objects: objects.slice(0, MOST_OBJECTS),
      left: Math.max(0, objects.length - MOST_OBJECTS),
      history: await this.alerts.ofRule(asker.reach, rule.id, this.clock.now() - HISTORY),
      // how it came to be what it is names what it was about
      versions: (asker.reach.mayEverywhere('read') || rule.team !== null ? found : [])
        .filter(({ change: { before, after } }) =>
          [before, after].every((one) => one === null || this.forTeams.sees(asker, one.team)),
        )
        .map(({ revision: { id, at, by }, change }) => ({
          revision: id,
          at,
          by,
          lines: linesBetween(inWords(change.before), inWords(change.after)),
        })),
    };
  }
  /** As far as somebody may see them; those that something is with first. */
  private async objects(asker: Asker, rule: Rule, rows: readonly StateRow[]): Promise<RuleSheet['objects']> {
    const states = new Map(rows.map((row) => [`${row.connectionId} ${row.subject}`, row.state]));
    const now = this.clock.now();
    const found: RuleSheet['objects'] = [];
    try {
      for await (const look of this.looks.now(rule)) {
        const at = look.moments.at(-1) ?? now;
        for (const subject of look.subjects) {
          if (!asker.reach.sees(placeOf(subject.path))) continue;
          const state = states.get(`${look.connectionOf(subject)} ${subject.key}`);
          found.push(objectOf(subject, state, at));
        }
      }
    } catch (error) {
      // what is wrong with it stands at the rule
      if (!(error instanceof Refusal)) throw error;
    }
    const rank = ({ state, severity }: (typeof found)[number]) =>
      (state === 'raised' ? 4 : state === 'easing' ? 3 : state === 'building' ? 2 : 0) +
      (severity === 'critical' ? 1 : 0);
    return found.sort((a, b) => rank(b) - rank(a) || a.name.localeCompare(b.name));
  }

  async add(asker: Asker, by: string, document: RuleDocument): Promise<string> {
    this.demandChange(asker, document.team);
    const all = this.configuration.all('rule');
    if (all.size >= MOST) throw new Refusal('conflict', `There are ${MOST} rules already. Remove one first.`);
    const key = freeKey(document.name, 'rule', (one) => all.has(one));
    await this.configuration.change({
      by,
      what: `added the rule “${document.name}”`,
      wishes: [{ kind: 'rule', key, after: document, fresh: true }],
    });
    return key;
  }
  async save(asker: Asker, by: string, key: string, document: RuleDocument): Promise<void> {
    const before = await this.look(asker, key);
    this.demandChange(asker, before.team);
    this.demandChange(asker, document.team);
    await this.configuration.change({
      by,
      what: `changed the rule “${document.name}”`,
      wishes: [{ kind: 'rule', key, after: document }],
    });
  }
  /** A team's own numbers for a rule of the platform: stricter for what it owns, never looser, never off. */
  async makeStricter(asker: Asker, by: string, key: string, { team, ...asked }: StricterInput): Promise<void> {
    const { id: _id, key: _key, judgedMs: _judged, ...document } = await this.look(asker, key);
    this.forTeams.demandChange(asker, team, { everybody: '', team: 'A team’s numbers are set by its members.' });
    const { [team]: _before, ...others } = document.stricter;
    const none = asked.warning === null && asked.critical === null;
    const read = RuleDocument.safeParse({ ...document, stricter: none ? others : { ...others, [team]: asked } });
    if (!read.success) throw new Refusal('invalid', read.error.issues[0]?.message ?? 'this is no rule');
    const below = conditionOf(document.when).side(document.when) === 'below';
    for (const level of RULE_LEVELS) {
      const [own, base] = [asked[level], document.levels[level]?.bound ?? null];
      if (own === null) continue;
      const path = [
        { path: level, text: base === null ? 'the rule has no such level' : 'this is looser than the rule' },
      ];
      if (base === null || (below ? own < base : own > base))
        throw new Refusal('invalid', 'A team may make a rule of the platform stricter for itself, not looser.', path);
    }
    await this.configuration.change({
      by,
      what: none
        ? `took the own numbers of ${team} from “${document.name}”`
        : `made “${document.name}” stricter for ${team}`,
      wishes: [{ kind: 'rule', key, after: read.data }],
    });
  }
  async remove(asker: Asker, by: string, key: string): Promise<void> {
    const { team, name } = await this.look(asker, key);
    this.demandChange(asker, team);
    await this.configuration.change({
      by,
      what: `removed the rule “${name}”`,
      wishes: [{ kind: 'rule', key, after: null }],
    });
  }
  async judgeNow(asker: Asker, key: string): Promise<void> {
    const rule = await this.look(asker, key);
    this.demandChange(asker, rule.team);
    await this.rules.judgeNow(key);
  }
  async look(asker: Asker, key: string): Promise<Rule> {
    const rule = this.rules.known().find((one) => one.key === key);
    if (!rule || !this.forTeams.sees(asker, rule.team))
      throw new Refusal('notFound', 'There is no such rule (any more).');
    return rule;
  }
  demandChange(asker: Asker, team: string | null): void {
    this.forTeams.demandChange(asker, team, {
      everybody: 'A rule of the platform is changed by administrators. Write one for a team of yours.',
      team: 'A team’s rule is changed by its members.',
    });
  }
}

function objectOf(subject: Subject, state: StateRow['state'] | undefined, at: number): RuleSheet['objects'][number] {
  const shown = state && stateShown(state);
  const raised = shown?.kind === 'easing' ? shown.raised : shown?.kind === 'raised' ? shown : null;
  return {
    name: subject.name,
    path: writePath(subject.path),
    state: shown?.kind ?? 'clear',
    severity: state ? worstRaised(state) : null,
    since: state ? (raisedSince(state) ?? (shown?.kind === 'building' ? shown.since : null)) : null,
    unseenSince: raised?.unseenSince ?? null,
    value: subject.value(at),
  };
}
/** A rule of the platform as those read it who see a part: what it names of others is left out. */
const withoutNames = (document: RuleDocument, { reach }: Asker, teams: ReadonlySet<string>): RuleDocument => ({
  ...document,
  tells: null,
  applies: selectorSeen(document.applies, reach),
  overrides: [],
  stricter: Object.fromEntries(Object.entries(document.stricter).filter(([team]) => teams.has(team))),
  when:
    document.when.is === 'expected'
      ? { ...document.when, names: [], least: document.when.least ?? 0, extra: false }
      : document.when,
});
/** In its form of today, whatever it was written in. */
function inWords(document: RuleDocument | null): string {
  if (document === null) return '';
  const read = RuleDocument.safeParse(document);
  return stringify(read.success ? read.data : document, { lineWidth: 100 });
}

/** Teams that are not there, and a team's rules that reach beyond it. */
function problemsOf(wanted: Documents, changes: readonly DocumentChange[]): DocumentProblem[] {
  if (!changes.some(({ kind }) => kind === 'rule' || kind === 'team')) return [];
  const problems: DocumentProblem[] = [];
  const say = (key: string, path: (string | number)[], text: string) =>
    problems.push({ kind: 'rule', key, path, text });
  for (const [key, { name, team, tells, when, applies, overrides, stricter }] of wanted.all('rule')) {
    if (team !== null && wanted.get('team', team) === null)
      say(key, ['team'], `The rule “${name}” belongs to the team ${team}, which is not there.`);
    if (tells !== null && wanted.get('team', tells) === null)
      say(key, ['tells'], `The rule “${name}” tells the team ${tells}, which is not there.`);
    if (team !== null && tells !== null && tells !== team)
      say(key, ['tells'], `The rule “${name}” of ${team} tells ${team}: a team’s rule speaks of what it may see.`);
    if (team !== null && conditionOf(when).platform)
      say(key, ['when'], `“${when.is}” looks at what is the platform’s: the rule “${name}” can belong to no team.`);
    if (team !== null && when.is === 'expected' && applies.namespaces.length === 0)
      say(
        key,
        ['applies', 'namespaces'],
        `The rule “${name}” of ${team} says what should be there: it names the namespaces in which.`,
      );
    const named = (teams: readonly string[], path: readonly (string | number)[], words: string) =>
      teams.forEach((own, i) => {
        if (wanted.get('team', own) === null)
          say(key, [...path, i], `The rule “${name}” ${words} the team ${own}, which is not there.`);
      });
    named(applies.teams, ['applies', 'teams'], 'applies to');
    overrides.forEach((one, i) => {
      named(one.applies.teams, ['overrides', i, 'applies', 'teams'], 'has other numbers for');
    });
    for (const own of Object.keys(stricter))
      if (wanted.get('team', own) === null)
        say(key, ['stricter', own], `The rule “${name}” has stricter numbers of the team ${own}, which is not there.`);
  }
  return problems;
}
