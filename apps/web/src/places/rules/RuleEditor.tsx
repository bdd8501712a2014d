import type { RuleDocument, RulesAnswer } from '@zetopsis/contract';
import { useState } from 'react';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { asFailure } from '../../state/failure.ts';
import { useAddRuleMutation, useSaveRuleMutation } from '../../state/rulesApi.ts';
import { RehearsalPanel } from './RehearsalPanel.tsx';
import { RuleForm } from './RuleForm.tsx';
import type { RuleDraft } from './ruleDraft.ts';
import { documentOf, type Problems } from './ruleOfDraft.ts';

const NO_PROBLEMS: Problems = new Map();

/** A rule as a draft, and beside it what it would have done. */
export function RuleEditor({
  first,
  ruleKey,
  answer,
  done,
  cancel,
}: {
  first: RuleDraft;
  /** Null: a new one. */
  ruleKey: string | null;
  answer: Pick<RulesAnswer, 'teams' | 'everywhere'>;
  done: (key: string) => void;
  cancel: () => void;
}) {
  const [draft, setDraft] = useState(first);
  const [problems, setProblems] = useState<Problems>(NO_PROBLEMS);
  const [add, adding] = useAddRuleMutation();
  const [save, saving] = useSaveRuleMutation();
  const error = adding.error ?? saving.error;
  const change = (part: Partial<RuleDraft>) => setDraft((before) => ({ ...before, ...part }));
  /** Null where something is wrong, which stands at its field then. */
  const read = (of: RuleDraft): RuleDocument | null => {
    const found = documentOf(of);
    setProblems('problems' in found ? found.problems : NO_PROBLEMS);
    return 'document' in found ? found.document : null;
  };
  const submit = async () => {
    const document = read(draft);
    if (document === null) return;
    const saved = ruleKey === null ? await add(document) : await save({ key: ruleKey, document });
    if (!saved.error) done(ruleKey ?? saved.data?.key ?? '');
  };
  return (
    <div className="grid grid-cols-[minmax(420px,1fr)_minmax(0,1.2fr)] gap-8">
      <form
        aria-label={ruleKey === null ? 'a new rule' : 'change the rule'}
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        <RuleForm draft={draft} change={change} problems={withAnswer(problems, error)} answer={answer} />
        {ruleKey !== null && (
          <p className="mb-3 text-sm text-soft">
            After a change, what was building starts its hold again; what is raised stays raised and is judged by the
            new rule.
          </p>
        )}
        <FormFailure error={error} />
        <button type="submit" className="button" disabled={adding.isLoading || saving.isLoading}>
          {ruleKey === null ? 'Add the rule' : 'Save'}
        </button>
        <button type="button" className="button-plain ml-3" onClick={cancel}>
          cancel
        </button>
      </form>
      <RehearsalPanel
        draft={draft}
        setDraft={setDraft}
        read={read}
        proposeAtOnce={ruleKey === null && first.text !== ''}
      />
    </div>
  );
}

/** What the server found wrong stands at its field, too. */
function withAnswer(problems: Problems, error: unknown): Problems {
  if (error === undefined) return problems;
  return new Map([...asFailure(error).fields.map(({ path, text }) => [path, text] as const), ...problems]);
}
