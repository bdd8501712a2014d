import { FINDING_CODES, type Severity } from '@zetopsis/core/findings';
import { COMPARES, CONDITION_KINDS, CONDITIONS, RULE_LEVELS } from '@zetopsis/core/rules';
import type { ReactNode } from 'react';
import { Field } from '../../forms/Field.tsx';
import { TextField } from '../../forms/TextField.tsx';
import { ShowMeasure } from '../../frame/ShowMeasure.tsx';
import { codeWords } from './draftOfRule.ts';
import { ConditionFields } from './RuleConditions.tsx';
import { Hours, Overrides, Sayings } from './RuleMore.tsx';
import { Applies, isNarrowed, type RuleFormProps, Whom } from './RuleScope.tsx';
import { exampleOf, isBounded, isOnLines, type RuleDraft, scaleOf, sideOf, takesUnits } from './ruleDraft.ts';
import { problemWithin } from './ruleOfDraft.ts';

const COMPARE_WORDS = {
  above: 'is above',
  below: 'is below',
  outside: 'is outside of two numbers',
  missing: 'has no value any more',
} as const;

/** A rule as it is written: when, how gravely, on what, and who is told. */
export function RuleForm(props: RuleFormProps) {
  const { draft, change, problems } = props;
  return (
    <>
      <TextField
        id="rule-name"
        label="Name"
        error={problems.get('name')}
        maxLength={120}
        value={draft.name}
        set={(text) => change({ name: text })}
      />
      <When {...props} />
      <Levels {...props} />
      <Whom {...props} />
      <Part title="which objects" problem={problemWithin(problems, 'applies')} open={isNarrowed(draft)}>
        <Applies {...props} />
      </Part>
      {isBounded(draft) && sideOf(draft) !== 'outside' && (
        <Part
          title="other numbers for some objects"
          problem={problemWithin(problems, 'overrides')}
          open={draft.overrides.length > 0}
        >
          <Overrides {...props} />
        </Part>
      )}
      <Part
        title="when it is judged"
        problem={problemWithin(problems, 'hours') ?? problems.get('judgedSeconds')}
        open={draft.hours.days.length > 0 || draft.judged.trim() !== ''}
      >
        <Hours {...props} />
      </Part>
      <Part
        title="what it says"
        problem={problems.get('title') ?? problems.get('says') ?? problemWithin(problems, 'links')}
        open={[draft.title, draft.says, draft.links].some((text) => text !== '')}
      >
        <Sayings {...props} />
      </Part>
      <Part
        title="note and runbook"
        problem={problems.get('note') ?? problems.get('runbook')}
        open={draft.note !== '' || draft.runbook !== ''}
      >
        <TextField
          id="rule-note"
          label="Note"
          error={problems.get('note')}
          rows={2}
          value={draft.note}
          set={(text) => change({ note: text })}
        />
        <TextField
          id="rule-runbook"
          label="Runbook: what to do, sent along with what is told"
          error={problems.get('runbook')}
          rows={4}
          value={draft.runbook}
          set={(text) => change({ runbook: text })}
        />
      </Part>
    </>
  );
}

function Part({
  title,
  problem,
  open,
  children,
}: {
  title: string;
  problem: string | undefined;
  open: boolean;
  children: ReactNode;
}) {
  return (
    <details className="mb-3 border-t border-hair pt-2" open={open || problem !== undefined}>
      <summary className="cursor-pointer font-semibold">
        {title} {problem !== undefined && <span className="text-critical">· {problem}</span>}
      </summary>
      <div className="mt-2">{children}</div>
    </details>
  );
}

function When({ draft, change, problems, answer }: RuleFormProps) {
  const { kind } = draft;
  return (
    <>
      <Field id="rule-kind" label="When" error={problems.get('when')}>
        <select
          id="rule-kind"
          className="field"
          value={kind}
          onChange={({ target }) => change({ kind: CONDITION_KINDS.find((one) => one === target.value) ?? kind })}
        >
          {CONDITION_KINDS.map((one) => (
            <option key={one} value={one}>
              {CONDITIONS[one].title}
            </option>
          ))}
        </select>
      </Field>
      {isOnLines(draft) && (
        <>
          <Field id="rule-measure" label="Measure: each of its lines is an object" error={problems.get('when.text')}>
            <textarea
              id="rule-measure"
              className="field font-mono text-[13px]"
              rows={Math.min(12, Math.max(4, draft.text.split('\n').length + 1))}
              spellCheck={false}
              value={draft.text}
              onChange={({ target }) => change({ text: target.value, unit: null })}
            />
          </Field>
          <div className="mb-3 flex items-baseline gap-3">
            {kind === 'measure' && (
              <select
                aria-label="compared how"
                className="field w-52"
                value={draft.compare}
                onChange={({ target }) => change({ compare: COMPARES.find((one) => one === target.value) ?? 'above' })}
              >
                {COMPARES.map((one) => (
                  <option key={one} value={one}>
                    {COMPARE_WORDS[one]}
                  </option>
                ))}
              </select>
            )}
            <ShowMeasure text={draft.text === '' ? null : draft.text} of="the rule" word="see it in Measures" />
          </div>
        </>
      )}
      <ConditionFields draft={draft} change={change} problems={problems} answer={answer} />
      {kind === 'finding' && <Codes draft={draft} change={change} />}
    </>
  );
}
function Codes({ draft, change }: Pick<RuleFormProps, 'draft' | 'change'>) {
  return (
    <fieldset className="mb-3">
      <legend className="mb-0.5 text-sm font-semibold">Which findings; none chosen: any</legend>
      <div className="grid max-h-48 grid-cols-3 gap-x-3 overflow-y-auto border border-line px-2 py-1 text-sm">
        {FINDING_CODES.map((code) => (
          <label key={code} className="flex items-center gap-1.5 truncate">
            <input
              type="checkbox"
              checked={draft.codes.includes(code)}
              onChange={({ target }) =>
                change({ codes: target.checked ? [...draft.codes, code] : draft.codes.filter((one) => one !== code) })
              }
            />
            {codeWords(code)}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

function Levels({ draft, change, problems }: RuleFormProps) {
  const bounded = isBounded(draft);
  const unit =
    draft.kind === 'running out' ? ' left' : draft.kind === 'unusual' ? ', bands' : scaleOf(draft) === 100 ? ', %' : '';
  const side = sideOf(draft);
  const outside = bounded && side === 'outside';
  const words = draft.kind === 'running out' ? 'with less than' : side;
  const setLevel = (level: Severity, part: Partial<RuleDraft['levels']['warning']>) =>
    change({ levels: { ...draft.levels, [level]: { ...draft.levels[level], ...part } } });
  return (
    <fieldset className="mb-3">
      <legend className="mb-1 text-sm font-semibold">How gravely</legend>
      {RULE_LEVELS.map((level) => {
        const own = draft.levels[level];
        const id = (field: string) => `rule-${level}-${field}`;
        return (
          <div key={level} className="grid grid-cols-[110px_1fr_1fr] items-start gap-3">
            <label className="flex items-center gap-2 pt-6">
              <input
                type="checkbox"
                checked={own.on}
                onChange={({ target }) => setLevel(level, { on: target.checked })}
              />
              {level}
            </label>
            {bounded ? (
              <span className={outside ? 'grid grid-cols-2 gap-2' : ''}>
                {outside && (
                  <TextField
                    id={id('low')}
                    label={`${level} below${unit}`}
                    error={problems.get(`levels.${level}.low`)}
                    inputMode={takesUnits(draft) ? 'text' : 'decimal'}
                    disabled={!own.on}
                    value={own.low}
                    set={(text) => setLevel(level, { low: text })}
                  />
                )}
                <TextField
                  id={id('bound')}
                  label={`${level} ${outside ? 'above' : words}${unit}`}
                  error={problems.get(`levels.${level}.bound`)}
                  inputMode={takesUnits(draft) || draft.kind === 'running out' ? 'text' : 'decimal'}
                  placeholder={draft.kind === 'running out' ? '24 h' : takesUnits(draft) ? exampleOf(draft) : undefined}
                  disabled={!own.on}
                  value={own.bound}
                  set={(text) => setLevel(level, { bound: text })}
                />
              </span>
            ) : (
              <p className="pt-6 text-sm text-soft">{level === 'critical' ? 'what is critical' : 'whatever it is'}</p>
            )}
            <TextField
              id={id('holds')}
              label={`${level} holds for`}
              error={problems.get(`levels.${level}.holdsSeconds`) ?? problems.get(`levels.${level}.readings`)}
              placeholder="5 min, or 3 readings"
              disabled={!own.on}
              value={own.holds}
              set={(text) => setLevel(level, { holds: text })}
            />
          </div>
        );
      })}
      {problems.has('levels') && (
        <p role="alert" className="mb-2 text-sm text-critical">
          {problems.get('levels')}
        </p>
      )}
      <div className="grid grid-cols-[110px_1fr_1fr] items-start gap-3">
        <span className="pt-6">clear</span>
        {bounded ? (
          <span className={outside ? 'grid grid-cols-2 gap-2' : ''}>
            {outside && (
              <TextField
                id="rule-clears-low"
                label={`clear from${unit}`}
                error={problems.get('clears.low')}
                inputMode={takesUnits(draft) ? 'text' : 'decimal'}
                placeholder="as its level"
                value={draft.clearsLow}
                set={(text) => change({ clearsLow: text })}
              />
            )}
            <TextField
              id="rule-clears"
              label={`clear ${outside ? 'to' : side === 'below' ? 'at or above' : 'at or below'}${unit}`}
              error={problems.get('clears.bound')}
              placeholder="as its level"
              value={draft.clearsBound}
              set={(text) => change({ clearsBound: text })}
            />
          </span>
        ) : (
          <p className="pt-6 text-sm text-soft">nothing of it any more</p>
        )}
        <TextField
          id="rule-after"
          label="clear after"
          error={problems.get('clears.afterSeconds')}
          value={draft.clearsAfter}
          set={(text) => change({ clearsAfter: text })}
        />
      </div>
    </fieldset>
  );
}
