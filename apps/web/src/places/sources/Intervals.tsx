import { IntervalsDocument } from '@zetopsis/contract';
import { formatCount } from '@zetopsis/core/format';
import { useState } from 'react';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { Field } from '../../forms/Field.tsx';
import { FormAside } from '../../forms/FormAside.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { useIntervalsQuery, useSaveIntervalsMutation } from '../../state/givenApi.ts';

/** How often is read what says nothing of it itself: by group, else overall. */
export function Intervals({ close }: { close: () => void }) {
  const { data, error, refetch } = useIntervalsQuery();
  const [save, saving] = useSaveIntervalsMutation();
  const [typed, setTyped] = useState<{ overall?: string; groups: Record<string, string> }>({ groups: {} });
  const [problems, setProblems] = useState<Record<string, string>>({});
  if (!data)
    return (
      <FormAside label="intervals" title="How often is read" width="narrow">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={4} height={40} />}
      </FormAside>
    );
  const { document, groups } = data;
  const overall = typed.overall ?? String(document.intervalSeconds);
  const of = (group: string) => typed.groups[group] ?? String(document.groups[group] ?? '');
  const submit = async () => {
    const wanted = IntervalsDocument.safeParse({
      intervalSeconds: overall,
      groups: Object.fromEntries(
        [...new Set([...groups.map(({ group }) => group), ...Object.keys(document.groups)])]
          .map((group) => [group, of(group).trim()] as const)
          .filter(([, seconds]) => seconds !== ''),
      ),
    });
    setProblems(
      Object.fromEntries((wanted.error?.issues ?? []).map(({ path, message }) => [String(path.at(-1)), message])),
    );
    if (!wanted.success) return;
    const done = await save(wanted.data);
    if (!done.error) close();
  };
  return (
    <FormAside label="intervals" title="How often is read" width="narrow">
      <p className="mb-3 text-sm text-soft">
        What says no interval of its own is read as its group says, else as all are. Pages of nodes are read as their
        cluster’s connection says.
      </p>
      <form
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        <Field id="interval-overall" label="Overall, seconds" error={problems['intervalSeconds']}>
          <input
            id="interval-overall"
            className="field w-28"
            inputMode="numeric"
            value={overall}
            onChange={({ target }) => setTyped({ ...typed, overall: target.value })}
          />
        </Field>
        {groups.length === 0 && (
          <p className="mb-3 text-sm text-soft">
            There are no groups yet: name one at an endpoint or a scout, and it has an interval here.
          </p>
        )}
        {groups.map(({ group, byGroup, byThemselves }) => (
          <Field key={group} id={`interval-${group}`} label={`Group ${group}, seconds`} error={problems[group]}>
            <input
              id={`interval-${group}`}
              className="field w-28"
              inputMode="numeric"
              placeholder={overall}
              value={of(group)}
              onChange={({ target }) => setTyped({ ...typed, groups: { ...typed.groups, [group]: target.value } })}
            />
            <p className="text-xs text-soft">
              {formatCount(byGroup, 'source')} read by it
              {byThemselves > 0 && `, ${byThemselves} by an interval of their own`}
            </p>
          </Field>
        ))}
        <FormFailure error={saving.error} />
        <div className="flex gap-2">
          <button type="submit" className="button" disabled={saving.isLoading}>
            Save
          </button>
          <button type="button" className="button-plain px-2" onClick={close}>
            cancel
          </button>
        </div>
      </form>
    </FormAside>
  );
}
