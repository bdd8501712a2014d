import type { RuleAnswer, RulesAnswer } from '@zetopsis/contract';
import { valueWords } from '@zetopsis/core/measures';
import { conditionOf, RULE_LEVELS } from '@zetopsis/core/rules';
import { useState } from 'react';
import { Field } from '../../forms/Field.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { TeamField } from '../../forms/TeamField.tsx';
import { asFailure } from '../../state/failure.ts';
import { useStricterMutation } from '../../state/rulesApi.ts';
import { draftOf } from './draftOfRule.ts';
import { readBound, scaleOf, takesUnits, unreadBound } from './ruleDraft.ts';

/** A team's own numbers for a rule of the platform: stricter for what it owns. */
export function Stricter({ rule, teams }: { rule: RuleAnswer; teams: RulesAnswer['teams'] }) {
  const { document } = rule;
  const [open, setOpen] = useState(false);
  const names = new Map(teams.map(({ key, name }) => [key, name]));
  const own = Object.entries(document.stricter);
  const definition = conditionOf(document.when);
  const fits =
    document.team === null && definition.bounded(document.when) && definition.side(document.when) !== 'outside';
  if (!fits || (teams.length === 0 && own.length === 0)) return null;
  const words = (value: number) =>
    definition.boundWords(value, (amount) => valueWords(amount, rule.unit ?? '', rule.shownAs));
  return (
    <section aria-label="stricter numbers" className="mt-5">
      <h3 className="section-title mb-1">Stricter for some teams</h3>
      {own.length === 0 && <p className="text-sm text-soft">For none: everybody has the rule’s own numbers.</p>}
      <ul className="text-sm">
        {own.map(([team, numbers]) => (
          <li key={team} className="border-b border-hair py-1">
            <b>{names.get(team) ?? team}</b>{' '}
            {RULE_LEVELS.flatMap((level) =>
              numbers[level] === null ? [] : `${level} at ${words(numbers[level])}`,
            ).join(', ')}
          </li>
        ))}
      </ul>
      {teams.length > 0 &&
        (open ? (
          <Form rule={rule} teams={teams} close={() => setOpen(false)} />
        ) : (
          <button type="button" className="button-plain mt-1 text-sm" onClick={() => setOpen(true)}>
            make it stricter for a team
          </button>
        ))}
    </section>
  );
}

function Form({ rule, teams, close }: { rule: RuleAnswer; teams: RulesAnswer['teams']; close: () => void }) {
  const { document } = rule;
  const draft = draftOf(document, rule.unit);
  const [team, setTeam] = useState(teams[0]?.key ?? '');
  const [numbers, setNumbers] = useState({ warning: '', critical: '' });
  const [wrong, setWrong] = useState<ReadonlySet<string>>(new Set());
  const [save, { error, isLoading }] = useStricterMutation();
  const fields = error === undefined ? [] : asFailure(error).fields;
  const submit = async () => {
    const warning = readBound(draft, numbers.warning);
    const critical = readBound(draft, numbers.critical);
    setWrong(new Set([...(warning === undefined ? ['warning'] : []), ...(critical === undefined ? ['critical'] : [])]));
    if (warning === undefined || critical === undefined) return;
    const done = await save({ key: rule.key, input: { team, warning, critical } });
    if (!done.error) close();
  };
  return (
    <form
      aria-label="stricter numbers of a team"
      className="mt-2"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      <div className="grid grid-cols-3 gap-3">
        <TeamField id="stricter-team" label="For" value={team} set={setTeam} teams={teams} nobody={null} />
        {RULE_LEVELS.map((level) => (
          <Field
            key={level}
            id={`stricter-${level}`}
            label={`${level}${scaleOf(draft) === 100 ? ', %' : ''}`}
            error={wrong.has(level) ? unreadBound(draft) : fields.find(({ path }) => path === level)?.text}
          >
            <input
              id={`stricter-${level}`}
              className="field"
              inputMode={takesUnits(draft) || draft.kind === 'running out' ? 'text' : 'decimal'}
              placeholder={document.levels[level] === null ? 'the rule has none' : `now ${draft.levels[level].bound}`}
              disabled={document.levels[level] === null}
              value={numbers[level]}
              onChange={({ target }) => setNumbers((before) => ({ ...before, [level]: target.value }))}
            />
          </Field>
        ))}
      </div>
      <p className="mb-2 text-xs text-soft">Both empty: the rule’s own numbers again.</p>
      <FormFailure error={error && { ...asFailure(error), fields: [] }} />
      <button type="submit" className="button" disabled={isLoading}>
        Save
      </button>
      <button type="button" className="button-plain ml-3" onClick={close}>
        cancel
      </button>
    </form>
  );
}
