import { type ScoutAnswer, SourceKey } from '@zetopsis/contract';
import { useState } from 'react';
import { Field, problemOf } from '../../forms/Field.tsx';
import { FormAside } from '../../forms/FormAside.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { asFailure } from '../../state/failure.ts';
import { usePreviewScoutMutation, useRemoveScoutMutation, useSaveScoutMutation } from '../../state/scoutsApi.ts';
import { RemoveScout } from './RemoveScout.tsx';
import { ScoutAmong, ScoutAnnotations, ScoutKeeps, ScoutPage, ScoutProof } from './ScoutFields.tsx';
import { ScoutFound } from './ScoutFound.tsx';
import { EMPTY, readScout, type Typed, typedOf } from './scoutModel.ts';

export function ScoutForm({ scout, close }: { scout: ScoutAnswer | null; close: () => void }) {
  const [typed, setTyped] = useState(() => typedOf(scout?.key ?? '', scout?.document ?? EMPTY));
  const [problems, setProblems] = useState<Record<string, string>>({});
  const [preview, previewing] = usePreviewScoutMutation();
  const [save, saving] = useSaveScoutMutation();
  const [remove, removing] = useRemoveScoutMutation();
  const error = saving.error ?? previewing.error ?? removing.error;
  const failure = error ? asFailure(error) : null;
  const problem = (field: string) =>
    problems[field] ??
    problemOf(failure, field) ??
    failure?.fields.find(({ path }) => path.startsWith(`${field}.`))?.text;
  const type = (part: Partial<Typed>) => setTyped({ ...typed, ...part });
  const fields = { typed, type, problem };
  const look = () => {
    const { document, problems: found } = readScout(typed);
    setProblems(found);
    if (document) void preview({ document, key: scout?.key ?? null });
  };
  const submit = async () => {
    const { document, problems: found } = readScout(typed);
    const key = SourceKey.safeParse(typed.key);
    const all = key.success ? found : { ...found, key: key.error.issues[0]?.message ?? 'a bad name' };
    setProblems(all);
    if (!document || !key.success) return;
    const done = await save({ key: key.data, document, secret: typed.secret });
    if (!done.error) close();
  };
  return (
    <FormAside
      label={scout ? `scout ${scout.key}` : 'make a scout'}
      title={scout ? `Scout ${scout.key}` : 'Make a scout'}
      width="widest"
    >
      <form
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        <Field id="scout-key" label="Name" error={problem('key')}>
          <input
            className="field"
            disabled={scout !== null}
            id="scout-key"
            value={typed.key}
            onChange={({ target }) => type({ key: target.value })}
          />
        </Field>
        <ScoutAmong {...fields} />
        <ScoutPage {...fields} />
        <ScoutProof {...fields} hasSecret={scout?.hasSecret ?? false} />
        <ScoutAnnotations {...fields} />
        <ScoutKeeps {...fields} />
        <FormFailure error={error} />
        <div className="flex gap-2">
          <button type="button" className="button" disabled={previewing.isLoading} onClick={look}>
            {previewing.isLoading ? 'looking' : 'Preview'}
          </button>
          <button type="submit" className="button" disabled={saving.isLoading}>
            {scout ? 'Save' : 'Make it'}
          </button>
          <button type="button" className="button-plain px-2" onClick={close}>
            cancel
          </button>
          {scout && (
            <RemoveScout
              name={scout.key}
              remove={async () => {
                const done = await remove(scout.key);
                if (!done.error) close();
              }}
            />
          )}
        </div>
      </form>
      {previewing.data && <ScoutFound key={previewing.requestId} preview={previewing.data} />}
    </FormAside>
  );
}
