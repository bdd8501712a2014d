import type { HushAnswer, RulesAnswer } from '@zetopsis/contract';
import { formatClock, formatCount } from '@zetopsis/core/format';
import { hushWords, WEEKDAYS } from '@zetopsis/core/rules';
import { useState } from 'react';
import { Link } from 'react-router';
import { FailureNote } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { Field } from '../../forms/Field.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { TeamField } from '../../forms/TeamField.tsx';
import { TextField } from '../../forms/TextField.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';
import { asFailure } from '../../state/failure.ts';
import { useAddHushMutation, useHushesQuery, useRemoveHushMutation } from '../../state/hushesApi.ts';
import { useSessionQuery } from '../../state/sessionApi.ts';
import { emptyHush, type HushDraft, hushOf } from './hushDraft.ts';
import { type Problems, problemWithin } from './ruleOfDraft.ts';

/** Planned times in which nobody is told: what holds, what is planned, what each has kept quiet. */
export function Hushes({ rules }: { rules: RulesAnswer }) {
  const { data, error, refetch } = useHushesQuery();
  const [planning, setPlanning] = useState(false);
  const mayPlan = rules.everywhere || rules.teams.length > 0;
  return (
    <section aria-label="hushes" className="mb-6">
      <div className="mb-1 flex items-baseline gap-3">
        <h2 className="section-title">Hushes</h2>
        {mayPlan && !planning && (
          <button type="button" className="button-plain text-sm" onClick={() => setPlanning(true)}>
            plan one
          </button>
        )}
      </div>
      {planning && <HushForm rules={rules} close={() => setPlanning(false)} />}
      {error && !data && <FailureNote error={error} retry={() => void refetch()} />}
      {data?.hushes.length === 0 && !planning && (
        <p className="text-sm text-soft">None: whatever is raised is told at any hour.</p>
      )}
      <ul className="text-sm">
        {data?.hushes.map((hush) => (
          <HushLine key={hush.key} hush={hush} />
        ))}
      </ul>
    </section>
  );
}

function HushLine({ hush: { key, document, owner, state, mayChange, kept } }: { hush: HushAnswer }) {
  const { link } = useView();
  const now = useNow(60_000);
  const [remove, { error, isLoading }] = useRemoveHushMutation();
  const { applies, rules, when, reason } = document;
  const where = [...applies.clusters, ...applies.namespaces, ...applies.teams, ...rules];
  return (
    <li className="border-b border-hair py-1.5">
      <p className="flex items-baseline gap-2">
        <b className={state === 'quiet now' ? 'text-ink' : 'text-soft'}>{state}</b>
        <span className="min-w-0 flex-1">{reason}</span>
        {mayChange && (
          <button
            type="button"
            className="button-plain"
            aria-label={`take back the hush: ${reason}`}
            disabled={isLoading}
            onClick={() => void remove(key)}
          >
            take it back
          </button>
        )}
      </p>
      <p className="text-soft">
        {hushWords(when, (at) => formatClock(at, now))} · {owner ?? 'the platform’s'} ·{' '}
        {where.length === 0 ? 'everything' : where.join(', ')}
      </p>
      {kept.length > 0 && (
        <details>
          <summary className="cursor-pointer">kept {formatCount(kept.length, 'alert')} quiet</summary>
          <ul>
            {kept.map((alert) => (
              <li key={alert.id} className="pl-3">
                <Link className="hover:text-petrol" to={link('/usage', { path: alert.path, sheet: true })}>
                  {formatClock(alert.raisedAt, now)} {alert.title}
                </Link>{' '}
                <span className="text-soft">{alert.endedAt === null ? 'still raised' : alert.endedHow}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
      <FailureText error={error} />
    </li>
  );
}

const KINDS = [
  ['from now', 'from now on'],
  ['once', 'once'],
  ['weekly', 'every week'],
  ['maintenance', 'while a node takes no pods'],
] as const;
function HushForm({ rules, close }: { rules: RulesAnswer; close: () => void }) {
  const { data: session } = useSessionQuery();
  const team = rules.everywhere ? '' : (rules.teams[0]?.key ?? '');
  const [draft, setDraft] = useState(() => emptyHush(session?.zone ?? 'UTC', team));
  const [problems, setProblems] = useState<Problems>(new Map());
  const [add, { error, isLoading }] = useAddHushMutation();
  const change = (part: Partial<HushDraft>) => setDraft((before) => ({ ...before, ...part }));
  const submit = async () => {
    const read = hushOf(draft, Date.now());
    setProblems('problems' in read ? read.problems : new Map());
    if (!('document' in read)) return;
    const done = await add(read.document);
    if (!done.error) close();
  };
  const text = (field: 'reason' | 'clusters' | 'namespaces', label: string, path: string, placeholder = '') => (
    <TextField
      id={`hush-${field}`}
      label={label}
      error={problemWithin(problems, path)}
      placeholder={placeholder}
      value={draft[field]}
      set={(text) => change({ [field]: text })}
    />
  );
  return (
    <form
      aria-label="plan a hush"
      className="mb-3 border-t border-hair pt-2"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      {text('reason', 'Reason', 'reason', 'the archive is moved')}
      <div className="grid grid-cols-2 gap-3">
        <Field id="hush-kind" label="When">
          <select
            id="hush-kind"
            className="field"
            value={draft.kind}
            onChange={({ target }) => change({ kind: KINDS.find(([kind]) => kind === target.value)?.[0] ?? 'once' })}
          >
            {KINDS.map(([kind, words]) => (
              <option key={kind} value={kind}>
                {words}
              </option>
            ))}
          </select>
        </Field>
        <TeamField
          id="hush-team"
          label="Whose"
          error={problems.get('team')}
          value={draft.team}
          set={(team) => change({ team })}
          teams={rules.teams}
          nobody={rules.everywhere ? 'everybody’s' : null}
        />
      </div>
      <Times draft={draft} change={change} problems={problems} />
      <Field id="hush-rule" label="Of which rule">
        <select
          id="hush-rule"
          className="field"
          value={draft.rule}
          onChange={({ target }) => change({ rule: target.value })}
        >
          <option value="">all rules</option>
          {rules.rules.map(({ key, document }) => (
            <option key={key} value={key}>
              {document.name}
            </option>
          ))}
        </select>
      </Field>
      <div className="grid grid-cols-2 gap-3">
        {text('clusters', 'In these clusters', 'applies.clusters', 'all')}
        {text('namespaces', 'In these namespaces', 'applies.namespaces', 'all')}
      </div>
      <FormFailure error={error && { ...asFailure(error), fields: [] }} />
      <button type="submit" className="button" disabled={isLoading}>
        Plan the hush
      </button>
      <button type="button" className="button-plain ml-3" onClick={close}>
        cancel
      </button>
    </form>
  );
}

function Times({
  draft,
  change,
  problems,
}: {
  draft: HushDraft;
  change: (part: Partial<HushDraft>) => void;
  problems: Problems;
}) {
  const field = (
    name: 'lasts' | 'from' | 'to' | 'begins' | 'ends' | 'zone',
    label: string,
    path: string,
    type: 'text' | 'datetime-local' = 'text',
  ) => (
    <TextField
      id={`hush-${name}`}
      label={label}
      error={problems.get(path)}
      type={type}
      value={draft[name]}
      set={(text) => change({ [name]: text })}
    />
  );
  switch (draft.kind) {
    case 'maintenance':
      return null;
    case 'from now':
      return field('lasts', 'For how long', 'lasts');
    case 'once':
      return (
        <div className="grid grid-cols-2 gap-3">
          {field('from', 'From', 'when.from', 'datetime-local')}
          {field('to', 'To', 'when.to', 'datetime-local')}
        </div>
      );
    case 'weekly':
      return (
        <>
          <fieldset className="mb-2">
            <legend className="text-sm font-semibold">On</legend>
            {WEEKDAYS.map((day) => (
              <label key={day} className="mr-2 inline-flex items-center gap-1 text-sm">
                <input
                  type="checkbox"
                  checked={draft.days.includes(day)}
                  onChange={({ target }) =>
                    change({
                      days: WEEKDAYS.filter((one) => (one === day ? target.checked : draft.days.includes(one))),
                    })
                  }
                />
                {day}
              </label>
            ))}
            {problemWithin(problems, 'when.days') && (
              <p role="alert" className="text-sm text-critical">
                {problemWithin(problems, 'when.days')}
              </p>
            )}
          </fieldset>
          <div className="grid grid-cols-3 gap-3">
            {field('begins', 'From', 'when.from')}
            {field('ends', 'To', 'when.to')}
            {field('zone', 'In', 'when.zone')}
          </div>
        </>
      );
  }
}
