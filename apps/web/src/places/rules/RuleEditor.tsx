import type { RuleDocument, RulesAnswer } from '@zetopsis/contract';
import { conditionOf } from '@zetopsis/core/rules';
import { DAY } from '@zetopsis/core/units';
import { useEffect, useRef, useState } from 'react';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { asFailure } from '../../state/failure.ts';
import { useAddRuleMutation, useRehearseMutation, useSaveRuleMutation } from '../../state/rulesApi.ts';
import { Rehearsal } from './Rehearsal.tsx';
import { RuleForm } from './RuleForm.tsx';
import {
  documentOf,
  EMPTY_DRAFT,
  lowestOf,
  PROBE,
  type Problems,
  proposedBound,
  type RuleDraft,
  scaleOf,
} from './ruleDraft.ts';

const SPANS = [
  { words: '6 h', ms: DAY / 4 },
  { words: '24 h', ms: DAY },
  { words: '7 days', ms: 7 * DAY },
  { words: '21 days', ms: 21 * DAY },
] as const;
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
  const [unknown, setUnknown] = useState(false);
  const [span, setSpan] = useState<number>(SPANS[1].ms);
  const [add, adding] = useAddRuleMutation();
  const [save, saving] = useSaveRuleMutation();
  const [rehearse, rehearsing] = useRehearseMutation();
  // what is tried to find a number is nobody's rehearsal
  const [probe, probing] = useRehearseMutation();
  const busy = rehearsing.isLoading || probing.isLoading;
  const error = adding.error ?? saving.error;
  const failed = rehearsing.error ?? probing.error;
  const change = (part: Partial<RuleDraft>) => setDraft((before) => ({ ...before, ...part }));
  /** Null where something is wrong, which stands at its field then. */
  const read = (of: RuleDraft): RuleDocument | null => {
    const found = documentOf(of);
    setProblems('problems' in found ? found.problems : NO_PROBLEMS);
    return 'document' in found ? found.document : null;
  };
  const tryOut = (of: RuleDraft, ms: number) => {
    const document = read(of.name.trim() === '' ? { ...of, name: 'a draft' } : of);
    const now = Date.now();
    if (document !== null) void rehearse({ document, from: now - ms, to: now });
  };
  /** A number is tried that everything is past: what others would have come to does not hang on it. */
  const propose = async (of: RuleDraft) => {
    const level = lowestOf(of);
    if (level === null || of.kind !== 'measure' || of.compare === 'missing') return;
    const probing = {
      ...of,
      name: 'a draft',
      clearsBound: '',
      levels: { ...EMPTY_DRAFT.levels, [level]: { ...of.levels[level], bound: PROBE } },
    };
    const found = documentOf(probing);
    if ('problems' in found) return void setProblems(found.problems);
    const now = Date.now();
    const answered = await probe({ document: found.document, from: now - span, to: now });
    const bound = answered.data ? proposedBound(answered.data, of.compare === 'below' ? 'below' : 'above') : null;
    setUnknown(bound === null && answered.data !== undefined);
    if (bound === null) return;
    const next = {
      ...of,
      levels: { ...of.levels, [level]: { ...of.levels[level], bound: written(bound, scaleOf(of)) } },
    };
    setDraft(next);
    tryOut(next, span);
  };
  // what leads here with a measure gets a number to begin with
  const asked = useRef(false);
  useEffect(() => {
    if (asked.current || ruleKey !== null || first.text === '') return;
    asked.current = true;
    if (lowestOf(first) !== null && first.levels[lowestOf(first)!].bound === '') void propose(first);
  });
  const submit = async () => {
    const document = read(draft);
    if (document === null) return;
    const saved = ruleKey === null ? await add(document) : await save({ key: ruleKey, document });
    if (!saved.error) done(ruleKey ?? saved.data?.key ?? '');
  };
  const lowest = lowestOf(draft);
  const scale = scaleOf(draft);
  const level = lowest === null ? null : draft.levels[lowest];
  const bound =
    level === null || level.bound.trim() === '' ? null : Number(level.bound.replace(',', '.').replace('%', '')) / scale;
  const choose = (next: number) => {
    if (lowest === null || level === null) return;
    change({ levels: { ...draft.levels, [lowest]: { ...level, bound: written(next, scale) } } });
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
      <div>
        <div className="mb-2 flex flex-wrap items-baseline gap-3">
          <h3 className="font-bold">Rehearse it</h3>
          <select
            aria-label="rehearsed over"
            className="field w-28"
            value={span}
            onChange={({ target }) => setSpan(Number(target.value))}
          >
            {SPANS.map(({ words, ms }) => (
              <option key={ms} value={ms}>
                {words}
              </option>
            ))}
          </select>
          <button type="button" className="button" disabled={busy} onClick={() => tryOut(draft, span)}>
            {busy ? 'looking back …' : 'See what it would have done'}
          </button>
          {draft.kind === 'measure' && draft.compare !== 'missing' && (
            <button type="button" className="button-plain" disabled={busy} onClick={() => void propose(draft)}>
              propose a threshold
            </button>
          )}
        </div>
        {failed !== undefined && <FormFailure error={{ ...asFailure(failed), fields: [] }} />}
        {unknown && <p role="status">Nothing of it was read over this time: no threshold can be proposed.</p>}
        {rehearsing.data ? (
          <Rehearsal answer={rehearsing.data} bound={Number.isFinite(bound) ? bound : null} choose={choose} />
        ) : (
          failed === undefined && (
            <p className="text-soft">
              {canRehearse(draft)
                ? 'The same judging over what is kept: when it would have been raised, for how long, how many messages to whom.'
                : 'This kind is judged by how things stand: put it on trial to see what it raises.'}
            </p>
          )
        )}
      </div>
    </div>
  );
}

const written = (bound: number, scale: number): string => String(Number((bound * scale).toPrecision(6)));
/** What the server found wrong stands at its field, too. */
function withAnswer(problems: Problems, error: unknown): Problems {
  if (error === undefined) return problems;
  return new Map([...asFailure(error).fields.map(({ path, text }) => [path, text] as const), ...problems]);
}
function canRehearse(draft: RuleDraft): boolean {
  const found = documentOf({ ...draft, name: draft.name || 'a draft' });
  return !('document' in found) || conditionOf(found.document.when).measure(found.document.when) !== null;
}
