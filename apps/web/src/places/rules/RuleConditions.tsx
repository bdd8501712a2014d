import { INVENTORY_KINDS, type InventoryKind } from '@zetopsis/core/inventory';
import { EXPECTED_KINDS, OBJECT_CHANGES, UNUSUAL_SIDES } from '@zetopsis/core/rules';
import type { ReactNode } from 'react';
import { Field } from '../../forms/Field.tsx';
import { TextField } from '../../forms/TextField.tsx';
import { Choices } from './Choices.tsx';
import type { RuleFormProps } from './RuleScope.tsx';
import type { RuleDraft } from './ruleDraft.ts';

type WrittenField = {
  [K in keyof RuleDraft]: RuleDraft[K] extends string ? (string extends RuleDraft[K] ? K : never) : never;
}[keyof RuleDraft];

/** What a kind of condition is set to, beside the numbers of its levels. */
export function ConditionFields(props: RuleFormProps) {
  switch (props.draft.kind) {
    case 'running out':
      return <RunningOut {...props} />;
    case 'unusual':
      return <Unusual {...props} />;
    case 'cluster event':
      return <Heard {...props} />;
    case 'object change':
      return <Changed {...props} />;
    case 'expected':
      return <Expected {...props} />;
    default:
      return null;
  }
}

function Text({
  draft,
  change,
  problems,
  field,
  label,
  path,
  placeholder,
}: Pick<RuleFormProps, 'draft' | 'change' | 'problems'> & {
  field: WrittenField;
  label: string;
  path: string;
  placeholder?: string;
}) {
  return (
    <TextField
      id={`rule-${field}`}
      label={label}
      error={problems.get(path)}
      placeholder={placeholder}
      value={draft[field]}
      set={(text) => change({ [field]: text })}
    />
  );
}
const Side = ({ children }: { children: ReactNode }) => <div className="grid grid-cols-2 gap-3">{children}</div>;

const RunningOut = (props: RuleFormProps) => (
  <Side>
    <Text {...props} field="reaches" label="Full at" path="when.reaches" placeholder="1, 100%, 20GiB" />
    <Text {...props} field="learned" label="As it went over the last" path="when.fromSeconds" />
  </Side>
);
const SIDE_WORDS = { either: 'above or below it', above: 'above it', below: 'below it' } as const;
function Unusual(props: RuleFormProps) {
  const { draft, change, problems } = props;
  return (
    <>
      <Side>
        <Field id="rule-side" label="Departs">
          <select
            id="rule-side"
            className="field"
            value={draft.side}
            onChange={({ target }) => change({ side: UNUSUAL_SIDES.find((one) => one === target.value) ?? 'either' })}
          >
            {[...UNUSUAL_SIDES].reverse().map((side) => (
              <option key={side} value={side}>
                {SIDE_WORDS[side]}
              </option>
            ))}
          </select>
        </Field>
        <Text {...props} field="days" label="Learned from the same hours of, days" path="when.days" />
        <Text
          {...props}
          field="quietFrom"
          label="Or from a quiet stretch, from"
          path="when.quiet.from"
          placeholder="2026-11-30T02:00:00Z"
        />
        <Text {...props} field="quietTo" label="to" path="when.quiet.to" placeholder="2026-11-30T04:00:00Z" />
      </Side>
      {problems.has('when.quiet') && <p className="mb-2 text-sm text-critical">{problems.get('when.quiet')}</p>}
      <p className="mb-3 text-sm text-soft">
        Levels are in bands: 0 is the middle of what is usual, 1 is where one in ten of it lies beyond.
      </p>
    </>
  );
}
const Heard = (props: RuleFormProps) => (
  <Side>
    <Text
      {...props}
      field="reasons"
      label="Reasons, as events show them"
      path="when.reasons"
      placeholder="any warning"
    />
    <Text {...props} field="stands" label="Stands after it was said for" path="when.standsSeconds" />
  </Side>
);
/** Kinds that somebody sets up come first. */
const CHANGED_KINDS: readonly InventoryKind[] = INVENTORY_KINDS.filter(
  (kind) => kind !== 'endpoint slice' && kind !== 'pod',
);
const CHANGE_WORDS = { created: 'made', changed: 'changed', removed: 'removed' } as const;
function Changed(props: RuleFormProps) {
  const { draft, change, problems } = props;
  return (
    <>
      <Choices
        legend="It is"
        all={OBJECT_CHANGES}
        chosen={draft.changes}
        set={(changes) => change({ changes })}
        words={(one) => CHANGE_WORDS[one]}
        problem={problems.get('when.changes')}
      />
      <Choices
        legend="Of these kinds; none chosen: whatever people set up"
        all={CHANGED_KINDS}
        chosen={draft.changedKinds}
        set={(changedKinds) => change({ changedKinds })}
        problem={problems.get('when.kinds')}
      />
      <Text {...props} field="stands" label="Stands for" path="when.standsSeconds" />
    </>
  );
}
function Expected(props: RuleFormProps) {
  const { draft, change, problems } = props;
  return (
    <>
      <Choices
        legend="Of these kinds"
        all={EXPECTED_KINDS}
        chosen={draft.expectedKinds}
        set={(expectedKinds) => change({ expectedKinds })}
        words={(one) => `${one}s`}
        problem={problems.get('when.kinds')}
      />
      <TextField
        id="rule-expectedNames"
        label="These should be there, with something ready"
        error={problems.get('when.names')}
        rows={2}
        placeholder="booking-front, booking-api, worker-*"
        value={draft.expectedNames}
        set={(text) => change({ expectedNames: text })}
      />
      <label className="mb-3 flex items-center gap-1.5 text-sm">
        <input type="checkbox" checked={draft.extra} onChange={({ target }) => change({ extra: target.checked })} />
        and nothing else
        {problems.has('when.extra') && <span className="text-critical"> · {problems.get('when.extra')}</span>}
      </label>
      <Side>
        <Text {...props} field="least" label="Or at least so many" path="when.least" />
        <Text {...props} field="most" label="and at most" path="when.most" />
      </Side>
      <p className="mb-3 text-sm text-soft">
        Where they should be is said under <i>which objects</i>, and at which hours under <i>when it is judged</i>.
      </p>
    </>
  );
}
