import type { RulesAnswer } from '@zetopsis/contract';
import { CRITICALITIES } from '@zetopsis/core/findings';
import { Field } from '../../forms/Field.tsx';
import { TeamField } from '../../forms/TeamField.tsx';
import { type Problems, problemWithin, type RuleDraft } from './ruleDraft.ts';

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
export const isNarrowed = ({ clusters, namespaces, teams, labels, criticality, judged }: RuleDraft): boolean =>
  [clusters, namespaces, labels, judged].some((text) => text.trim() !== '') || teams.length + criticality.length > 0;
/** Which objects it looks at, and how often. */
export function Applies({ draft, change, problems, answer }: RuleFormProps) {
  const text = (
    field: 'clusters' | 'namespaces' | 'labels' | 'judged',
    label: string,
    placeholder: string,
    path = `applies.${field}`,
  ) => (
    <Field id={`rule-${field}`} label={label} error={problemWithin(problems, path)}>
      <input
        id={`rule-${field}`}
        className="field"
        placeholder={placeholder}
        value={draft[field]}
        onChange={({ target }) => change({ [field]: target.value })}
      />
    </Field>
  );
  const listed = <T extends string>(
    all: readonly T[],
    chosen: readonly T[],
    set: (next: T[]) => void,
    words: (one: T) => string,
  ) =>
    all.map((one) => (
      <label key={one} className="mr-3 inline-flex items-center gap-1.5 text-sm">
        <input
          type="checkbox"
          checked={chosen.includes(one)}
          onChange={({ target }) => set(target.checked ? [...chosen, one] : chosen.filter((other) => other !== one))}
        />
        {words(one)}
      </label>
    ));
  const names = new Map(answer.teams.map(({ key, name }) => [key, name]));
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        {text('clusters', 'In these clusters', 'all')}
        {text('namespaces', 'In these namespaces', 'all')}
        {text('labels', 'With these labels', 'tier=gold')}
        {text('judged', 'Judged every', 'with each reading', 'judgedSeconds')}
      </div>
      <fieldset className="mb-2">
        <legend className="text-sm font-semibold">Of criticality</legend>
        {listed(
          CRITICALITIES,
          draft.criticality,
          (criticality) => change({ criticality }),
          (one) => one,
        )}
      </fieldset>
      {answer.teams.length > 0 && (
        <fieldset>
          <legend className="text-sm font-semibold">Owned by</legend>
          {listed(
            answer.teams.map(({ key }) => key),
            draft.teams,
            (teams) => change({ teams }),
            (key) => names.get(key) ?? key,
          )}
        </fieldset>
      )}
    </>
  );
}
