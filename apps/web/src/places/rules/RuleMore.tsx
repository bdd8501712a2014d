import { SAYING_FIELDS, WEEKDAYS } from '@zetopsis/core/rules';
import { TextField } from '../../forms/TextField.tsx';
import { Choices } from './Choices.tsx';
import type { RuleFormProps } from './RuleScope.tsx';
import { NO_OVERRIDE, type OverrideDraft, type RuleDraft } from './ruleDraft.ts';
import { problemWithin } from './ruleOfDraft.ts';

/** How often it is judged, and at which hours. */
export function Hours({ draft, change, problems }: RuleFormProps) {
  const { hours } = draft;
  const set = (part: Partial<RuleDraft['hours']>) => change({ hours: { ...hours, ...part } });
  const text = (field: 'from' | 'to' | 'zone', label: string) => (
    <TextField
      id={`rule-hours-${field}`}
      label={label}
      error={problems.get(`hours.${field}`)}
      disabled={hours.days.length === 0}
      value={hours[field]}
      set={(text) => set({ [field]: text })}
    />
  );
  return (
    <>
      <TextField
        id="rule-judged"
        label="Judged every"
        error={problems.get('judgedSeconds')}
        placeholder="with each reading"
        value={draft.judged}
        set={(text) => change({ judged: text })}
      />
      <Choices
        legend="Only on these days; none chosen: always"
        all={WEEKDAYS}
        chosen={hours.days}
        set={(days) => set({ days: WEEKDAYS.filter((day) => days.includes(day)) })}
      />
      <div className="grid grid-cols-3 gap-3">
        {text('from', 'from')}
        {text('to', 'to')}
        {text('zone', 'in the time of')}
      </div>
    </>
  );
}

/** What an alert is called and says, and where one may read on. */
export function Sayings({ draft, change, problems }: RuleFormProps) {
  return (
    <>
      <TextField
        id="rule-title"
        label="An alert is called"
        error={problems.get('title')}
        placeholder="as this kind is called"
        value={draft.title}
        set={(text) => change({ title: text })}
      />
      <TextField
        id="rule-says"
        label="and says"
        error={problems.get('says')}
        rows={2}
        placeholder="what is known of it"
        value={draft.says}
        set={(text) => change({ says: text })}
      />
      <p className="mb-3 text-xs text-soft">Fields: {SAYING_FIELDS.map((field) => `{${field}}`).join(' ')}</p>
      <TextField
        id="rule-links"
        label="Links: a name and an address in each line"
        error={problemWithin(problems, 'links')}
        rows={2}
        placeholder="tide tables https://charts.example/tides"
        value={draft.links}
        set={(text) => change({ links: text })}
      />
    </>
  );
}

/** Other numbers for some of the objects. */
export function Overrides(props: RuleFormProps) {
  const { draft, change, problems } = props;
  const set = (overrides: readonly OverrideDraft[]) => change({ overrides });
  return (
    <>
      {draft.overrides.map((own, i) => (
        // they have no names, and their order is what counts
        <fieldset key={i} className="mb-3 border-l-2 border-line pl-3">
          <legend className="text-sm font-semibold">For these</legend>
          <OverrideFields
            {...props}
            own={own}
            at={i}
            set={(part) => set(draft.overrides.map((one, n) => (n === i ? { ...one, ...part } : one)))}
          />
          {problems.has(`overrides.${i}`) && (
            <p role="alert" className="text-sm text-critical">
              {problems.get(`overrides.${i}`)}
            </p>
          )}
          <button type="button" className="button-plain" onClick={() => set(draft.overrides.filter((_, n) => n !== i))}>
            leave these out
          </button>
        </fieldset>
      ))}
      <button type="button" className="button-plain" onClick={() => set([...draft.overrides, NO_OVERRIDE])}>
        other numbers for some
      </button>
      {draft.overrides.length > 1 && <p className="text-xs text-soft">The first that fits an object counts.</p>}
    </>
  );
}
function OverrideFields({
  draft,
  problems,
  answer,
  own,
  at,
  set,
}: RuleFormProps & { own: OverrideDraft; at: number; set: (part: Partial<OverrideDraft>) => void }) {
  const text = (field: Exclude<keyof OverrideDraft, 'teams' | 'besides'>, label: string, path: string, off = false) => (
    <TextField
      id={`rule-other-${at}-${field}`}
      label={label}
      error={problemWithin(problems, `overrides.${at}.${path}`)}
      disabled={off}
      placeholder={path === field ? 'as the rule' : 'any'}
      value={own[field]}
      set={(text) => set({ [field]: text })}
    />
  );
  const names = new Map(answer.teams.map(({ key, name }) => [key, name]));
  const besides = Object.values(own.besides).flat();
  return (
    <>
      <div className="grid grid-cols-3 gap-3">
        {text('names', 'names', 'applies.names')}
        {text('namespaces', 'namespaces', 'applies.namespaces')}
        {text('labels', 'labels', 'applies.labels')}
      </div>
      {answer.teams.length > 0 && (
        <Choices
          legend="owned by"
          all={answer.teams.map(({ key }) => key)}
          chosen={own.teams}
          set={(teams) => set({ teams })}
          words={(key) => names.get(key) ?? key}
        />
      )}
      {besides.length > 0 && <p className="mb-2 text-sm text-soft">and only of {besides.join(', ')}</p>}
      <div className="grid grid-cols-3 gap-3">
        {text('warning', 'warning at', 'warning', !draft.levels.warning.on)}
        {text('critical', 'critical at', 'critical', !draft.levels.critical.on)}
        {text('clears', 'clear at', 'clears')}
      </div>
    </>
  );
}
