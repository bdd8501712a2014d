import { FORWARD_SIGNALS, ForwardDocument, type ForwardsAnswer } from '@zetopsis/contract';
import { LINE_LEVELS } from '@zetopsis/core/lines';
import { useState } from 'react';
import { Field, problemOf } from '../../forms/Field.tsx';
import { FormAside } from '../../forms/FormAside.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { PasswordField } from '../../forms/PasswordField.tsx';
import { TextField } from '../../forms/TextField.tsx';
import { asFailure } from '../../state/failure.ts';
import { useAddForwardMutation, useSaveForwardMutation } from '../../state/forwardsApi.ts';

type Own = ForwardsAnswer['forwards'][number];
const NEW: ForwardDocument = {
  title: '',
  address: '',
  authority: '',
  signals: [...FORWARD_SIGNALS],
  keys: [],
  clusters: [],
  leastLevel: null,
  failedOnly: false,
  backlogMegabytes: 256,
  use: 'on',
  note: '',
};
const asTyped = (own: Own | null) => {
  const known = own?.document ?? NEW;
  return { ...known, leastLevel: known.leastLevel ?? '', backlogMegabytes: String(known.backlogMegabytes) };
};
const SIGNAL_WORDS = { metrics: 'metrics', logs: 'log lines', traces: 'spans' } as const;

/** A receiver, added or changed. */
export function ForwardForm({ own, answer, close }: { own: Own | null; answer: ForwardsAnswer; close: () => void }) {
  const [typed, setTyped] = useState(() => asTyped(own));
  const [secret, setSecret] = useState<string | null>(own === null ? '' : null);
  const [problems, setProblems] = useState<Record<string, string>>({});
  const [add, adding] = useAddForwardMutation();
  const [save, saving] = useSaveForwardMutation();
  const error = adding.error ?? saving.error;
  const failure = error === undefined ? null : asFailure(error);
  const problem = (field: string) =>
    problems[field] ?? problemOf(failure, `document.${field}`) ?? problemOf(failure, field);
  const set = (part: Partial<typeof typed>) => setTyped({ ...typed, ...part });
  const text = (field: 'title' | 'address' | 'authority' | 'backlogMegabytes' | 'note') => ({
    id: `forward-${field}`,
    error: problem(field),
    value: typed[field],
    set: (value: string) => set({ [field]: value }),
  });
  const keep = async () => {
    const read = ForwardDocument.safeParse({ ...typed, leastLevel: typed.leastLevel === '' ? null : typed.leastLevel });
    setProblems(Object.fromEntries((read.error?.issues ?? []).map(({ path, message }) => [String(path[0]), message])));
    if (!read.success) return;
    const input = { document: read.data, secret };
    const done = own === null ? await add(input) : await save({ key: own.key, input });
    if (!done.error) close();
  };
  return (
    <FormAside label="receiver" title={own === null ? 'Add a receiver' : own.document.title} width="narrow">
      <form
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <TextField label="What it is" maxLength={120} {...text('title')} />
        <TextField label="Address, before /v1/…" placeholder="https://receiver.example:4318" {...text('address')} />
        <PasswordField
          id="forward-secret"
          label={own?.proves ? 'Token (as before, unless you type one)' : 'Token that it is shown'}
          autoComplete="off"
          value={secret ?? ''}
          onChange={({ target }) => setSecret(target.value)}
        />
        <Marks
          legend="What goes on"
          error={problem('signals')}
          of={FORWARD_SIGNALS}
          words={(signal) => SIGNAL_WORDS[signal]}
          chosen={typed.signals}
          set={(signals) => set({ signals: [...signals] })}
        />
        <div className="grid grid-cols-2 gap-3">
          <Marks
            legend="With push keys (none: any)"
            of={[...new Set([...answer.keys, ...typed.keys])]}
            chosen={typed.keys}
            set={(keys) => set({ keys: [...keys] })}
          />
          <Marks
            legend="About clusters (none: any)"
            of={[...new Set([...answer.clusters, ...typed.clusters])]}
            chosen={typed.clusters}
            set={(clusters) => set({ clusters: [...clusters] })}
          />
        </div>
        {typed.signals.includes('logs') && (
          <Field id="forward-leastLevel" label="Log lines of level" error={problem('leastLevel')}>
            <select
              id="forward-leastLevel"
              className="field"
              value={typed.leastLevel}
              onChange={({ target }) => set({ leastLevel: LINE_LEVELS.find((level) => level === target.value) ?? '' })}
            >
              <option value="">any, and without one</option>
              {LINE_LEVELS.map((level) => (
                <option key={level} value={level}>
                  {level} and graver
                </option>
              ))}
            </select>
          </Field>
        )}
        {typed.signals.includes('traces') && (
          <label className="mb-3 flex items-center gap-2 text-sm">
            <input
              type="checkbox"
              checked={typed.failedOnly}
              onChange={({ target }) => set({ failedOnly: target.checked })}
            />
            of spans only those that failed
          </label>
        )}
        <TextField label="May wait here while it is away, MiB" inputMode="decimal" {...text('backlogMegabytes')} />
        <TextField label="Authority that vouches for it (certificates)" rows={3} {...text('authority')} />
        <TextField label="Note" rows={2} maxLength={2000} {...text('note')} />
        <label className="mb-3 flex items-center gap-2 text-sm">
          <input
            type="checkbox"
            checked={typed.use === 'off'}
            onChange={({ target }) => set({ use: target.checked ? 'off' : 'on' })}
          />
          off: nothing new goes on, what waits stays
        </label>
        <FormFailure error={error} />
        <div className="mt-2 flex gap-3">
          <button type="submit" className="button" disabled={adding.isLoading || saving.isLoading}>
            {own === null ? 'Let it go on' : 'Change it'}
          </button>
          <button type="button" className="button-plain" onClick={close}>
            cancel
          </button>
        </div>
      </form>
    </FormAside>
  );
}

function Marks<T extends string>({
  legend,
  error,
  of,
  words = (one) => one,
  chosen,
  set,
}: {
  legend: string;
  error?: string | undefined;
  of: readonly T[];
  words?: (one: T) => string;
  chosen: readonly T[];
  set: (chosen: readonly T[]) => void;
}) {
  return (
    <fieldset className="mb-3">
      <legend className="mb-0.5 text-sm font-semibold">{legend}</legend>
      <div className="max-h-32 overflow-auto">
        {of.map((one) => (
          <label key={one} className="flex items-center gap-2 text-sm">
            <input
              type="checkbox"
              checked={chosen.includes(one)}
              onChange={({ target }) =>
                set(target.checked ? [...chosen, one] : chosen.filter((other) => other !== one))
              }
            />
            {words(one)}
          </label>
        ))}
        {of.length === 0 && <p className="text-sm text-soft">There are none.</p>}
      </div>
      {error && (
        <p role="alert" className="text-sm text-critical">
          {error}
        </p>
      )}
    </fieldset>
  );
}
