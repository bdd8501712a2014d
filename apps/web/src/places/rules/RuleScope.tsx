import { type RulesAnswer, SELECTABLE_KINDS } from '@zetopsis/contract';
import { CRITICALITIES } from '@zetopsis/core/findings';
import { Field } from '../../forms/Field.tsx';
import { TeamField } from '../../forms/TeamField.tsx';
import { TextField } from '../../forms/TextField.tsx';
import { Choices } from './Choices.tsx';
import type { RuleDraft } from './ruleDraft.ts';
import { type Problems, problemWithin } from './ruleOfDraft.ts';

export interface RuleFormProps {
  readonly draft: RuleDraft;
  readonly change: (part: Partial<RuleDraft>) => void;
  readonly problems: Problems;
  readonly answer: Pick<RulesAnswer, 'teams' | 'everywhere'>;
}

/** In which state it is, whose, and whom it tells. */
export function Whom({ draft, change, problems, answer }: RuleFormProps) {
  return (
    <div className="grid grid-cols-3 gap-3">
      <Field id="rule-state" label="State" error={problems.get('state')}>
        <select
          id="rule-state"
          className="field"
          value={draft.state}
          onChange={({ target }) =>
            change({ state: target.value === 'on' ? 'on' : target.value === 'off' ? 'off' : 'on trial' })
          }
        >
          <option value="on">on</option>
          <option value="on trial">on trial: tells nobody</option>
          <option value="off">off</option>
        </select>
      </Field>
      <TeamField
        id="rule-team"
        label="Whose rule"
        error={problems.get('team')}
        value={draft.team}
        set={(team) => change({ team, tells: '' })}
        teams={answer.teams}
        nobody={answer.everywhere || draft.team === '' ? 'the platform’s' : null}
      />
      <TeamField
        id="rule-tells"
        label="Tells"
        error={problems.get('tells')}
        value={draft.tells}
        set={(tells) => change({ tells })}
        teams={draft.team === '' ? answer.teams : []}
        nobody={draft.team === '' ? 'the owner' : 'the team'}
        disabled={draft.team !== ''}
      />
    </div>
  );
}

/** Whether it says anything of which objects. */
export const isNarrowed = (draft: RuleDraft): boolean =>
  [draft.clusters, draft.environments, draft.namespaces, draft.labels, draft.names].some(
    (text) => text.trim() !== '',
  ) || draft.teams.length + draft.criticality.length + draft.kinds.length > 0;
/** Which objects it looks at. */
export function Applies({ draft, change, problems, answer }: RuleFormProps) {
  const text = (
    field: 'clusters' | 'environments' | 'namespaces' | 'labels' | 'names',
    label: string,
    placeholder: string,
  ) => (
    <TextField
      id={`rule-${field}`}
      label={label}
      error={problemWithin(problems, `applies.${field}`)}
      placeholder={placeholder}
      value={draft[field]}
      set={(text) => change({ [field]: text })}
    />
  );
  const names = new Map(answer.teams.map(({ key, name }) => [key, name]));
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        {text('clusters', 'In these clusters', 'all')}
        {text('namespaces', 'In these namespaces', 'all')}
        {text('labels', 'With these labels', 'tier=gold')}
        {text('environments', 'In clusters of these environments', 'all')}
        {text('names', 'Called', 'booking-*')}
      </div>
      <Choices
        legend="Of these kinds; none chosen: whatever it looks at"
        all={SELECTABLE_KINDS}
        chosen={draft.kinds}
        set={(kinds) => change({ kinds })}
        problem={problems.get('applies.kinds')}
      />
      <Choices
        legend="Of criticality"
        all={CRITICALITIES}
        chosen={draft.criticality}
        set={(criticality) => change({ criticality })}
      />
      {answer.teams.length > 0 && (
        <Choices
          legend="Owned by"
          all={answer.teams.map(({ key }) => key)}
          chosen={draft.teams}
          set={(teams) => change({ teams })}
          words={(key) => names.get(key) ?? key}
        />
      )}
    </>
  );
}
