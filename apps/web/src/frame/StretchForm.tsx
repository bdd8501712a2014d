import { STRETCH_KINDS, type StretchKind } from '@zetopsis/contract';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { pathWords } from '../drawing/names.ts';
import { Field } from '../forms/Field.tsx';
import { FormFailure } from '../forms/FormFailure.tsx';
import { TeamField } from '../forms/TeamField.tsx';
import { TextField } from '../forms/TextField.tsx';
import { asFailure } from '../state/failure.ts';
import { useAddStretchMutation, useSaveStretchMutation, useStretchesQuery } from '../state/stretchesApi.ts';
import { type StretchDraft, stretchOf } from './stretchDraft.ts';

interface Props {
  readonly first: StretchDraft | null;
  /** The key of the one that is changed; null: one is marked anew. */
  readonly changed?: string | null;
  readonly close: () => void;
}
/** Marks a stretch of time, or changes one: what it was, where, from when to when. */
export function StretchForm({ first, changed = null, close }: Props) {
  return (
    <Dialog.Root open={first !== null} onOpenChange={(next) => !next && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ground/70" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed bottom-24 left-1/2 z-40 w-[520px] max-w-[94vw] -translate-x-1/2 border border-ink bg-sheet px-5 py-4"
        >
          <Dialog.Title className="section-title mb-2">
            {changed === null ? 'Mark a stretch of time' : 'Change a stretch of time'}
          </Dialog.Title>
          {first && <Fields first={first} changed={changed} close={close} />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Fields({ first, changed, close }: { first: StretchDraft; changed: string | null; close: () => void }) {
  const [draft, setDraft] = useState(first);
  const [problems, setProblems] = useState<ReadonlyMap<string, string>>(new Map());
  const { data } = useStretchesQuery();
  const [add, adding] = useAddStretchMutation();
  const [save, saving] = useSaveStretchMutation();
  const error = adding.error ?? saving.error;
  const change = (part: Partial<StretchDraft>) => setDraft((before) => ({ ...before, ...part }));
  const submit = async () => {
    const read = stretchOf(draft);
    setProblems('problems' in read ? read.problems : new Map());
    if (!('document' in read)) return;
    const { document } = read;
    const done = await (changed === null ? add(document) : save({ key: changed, document }));
    if (!done.error) close();
  };
  const time = (field: 'from' | 'to', label: string) => (
    <TextField
      id={`stretch-${field}`}
      label={label}
      error={problems.get(field)}
      type="datetime-local"
      value={draft[field]}
      set={(text) => change({ [field]: text })}
    />
  );
  return (
    <form
      aria-label={changed === null ? 'mark a stretch' : 'change a stretch'}
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      <div className="grid grid-cols-[1fr_2fr] gap-3">
        <Field id="stretch-kind" label="It is a" error={problems.get('kind')}>
          <select
            id="stretch-kind"
            className="field"
            value={draft.kind}
            onChange={({ target }) => change({ kind: STRETCH_KINDS.find((kind) => kind === target.value) ?? 'load' })}
          >
            {STRETCH_KINDS.map((kind: StretchKind) => (
              <option key={kind}>{kind}</option>
            ))}
          </select>
        </Field>
        <TextField
          id="stretch-title"
          label="Title"
          error={problems.get('title')}
          maxLength={120}
          placeholder="spring tide rehearsal"
          value={draft.title}
          set={(text) => change({ title: text })}
        />
      </div>
      <div className="grid grid-cols-2 gap-3">
        {time('from', 'From')}
        {time('to', 'To (empty: it goes on)')}
      </div>
      <TeamField
        id="stretch-team"
        label="Whose"
        error={problems.get('team')}
        value={draft.team}
        set={(team) => change({ team })}
        teams={data?.teams ?? []}
        nobody="everybody’s who sees where it is"
      />
      <p className="mb-3 text-sm">
        Where: <b>{draft.scope.length === 0 ? 'everywhere' : pathWords(draft.scope)}</b>
        {draft.scope.length > 0 && (
          <button
            type="button"
            className="button-plain ml-2"
            onClick={() => change({ scope: draft.scope.slice(0, -1) })}
          >
            one step wider
          </button>
        )}
      </p>
      <TextField
        id="stretch-note"
        label="Note"
        error={problems.get('note')}
        rows={2}
        value={draft.note}
        set={(text) => change({ note: text })}
      />
      <FormFailure error={error && { ...asFailure(error), fields: [] }} />
      <button type="submit" className="button" disabled={adding.isLoading || saving.isLoading}>
        {changed === null ? 'Mark it' : 'Change it'}
      </button>
      <button type="button" className="button-plain ml-3" onClick={close}>
        cancel
      </button>
    </form>
  );
}
