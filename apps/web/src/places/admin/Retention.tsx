import { zodResolver } from '@hookform/resolvers/zod';
import { type RetentionAnswer, RetentionKept } from '@zetopsis/contract';
import { formatBytes, formatClock, formatCount } from '@zetopsis/core/format';
import { useForm } from 'react-hook-form';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { TableHead } from '../../drawing/TableHead.tsx';
import { Field } from '../../forms/Field.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useChangeRetentionMutation, useRetentionQuery } from '../../state/retentionApi.ts';

const GROUPS = [
  {
    title: 'How long what is kept, in days',
    fields: [
      { name: 'samplesDays', label: 'Every sample' },
      { name: 'fiveMinutesDays', label: 'Roll-ups by 5 minutes' },
      { name: 'hoursDays', label: 'Roll-ups by the hour' },
      { name: 'linesDays', label: 'Log lines' },
      { name: 'tracesDays', label: 'Traces' },
      { name: 'versionsDays', label: 'States of objects' },
      { name: 'eventsDays', label: 'Events of clusters' },
      { name: 'alertsDays', label: 'Ended alerts' },
    ],
  },
  {
    title: 'How much may come in',
    fields: [
      { name: 'lateMinutes', label: 'Too late by, minutes' },
      { name: 'pageMegabytes', label: 'A page, MiB' },
      { name: 'seriesPerEndpoint', label: 'Series of an endpoint' },
      { name: 'seriesPerTeam', label: 'Series of a team' },
      { name: 'seriesInAll', label: 'Series in all' },
      { name: 'spaceGigabytes', label: 'Room, GiB (0: the disk’s)' },
    ],
  },
] as const;

/** How long what is kept. */
export function Retention() {
  const { data, error, refetch } = useRetentionQuery();
  // here, since the form is made anew with what was saved
  const [change, changing] = useChangeRetentionMutation();
  if (!data)
    return error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={5} height={40} />;
  return (
    <section aria-label="retention" className="max-w-6xl">
      <div className="mb-3 flex items-baseline gap-3">
        <h2 className="section-title">Retention and limits</h2>
        <p className="text-sm text-soft">revisions and the audit log are kept for ever</p>
      </div>
      <RetentionForm
        key={JSON.stringify(data.keep)}
        keep={data.keep}
        change={(keep) => void change(keep)}
        changing={changing}
      />
      <Held data={data} />
    </section>
  );
}

function RetentionForm({
  keep,
  change,
  changing: { error, isLoading, isSuccess },
}: {
  keep: RetentionKept;
  change: (keep: RetentionKept) => void;
  changing: { readonly error?: unknown; readonly isLoading: boolean; readonly isSuccess: boolean };
}) {
  const { register, handleSubmit, formState } = useForm({
    resolver: zodResolver(RetentionKept),
    defaultValues: keep,
  });
  return (
    <form onSubmit={(event) => void handleSubmit((values) => change(values))(event)} noValidate className="mb-6">
      {GROUPS.map(({ title, fields }) => (
        <fieldset key={title} className="mb-2">
          <legend className="mb-1 font-bold">{title}</legend>
          <div className="grid grid-cols-3 gap-x-4 xl:grid-cols-6">
            {fields.map(({ name, label }) => (
              <Field key={name} id={`keep-${name}`} label={label} error={formState.errors[name]?.message}>
                <input id={`keep-${name}`} className="field" inputMode="numeric" {...register(name)} />
              </Field>
            ))}
          </div>
        </fieldset>
      ))}
      <FormFailure error={error} />
      <button type="submit" className="button" disabled={isLoading || !formState.isDirty}>
        Save
      </button>
      <span className="ml-3 text-sm text-soft">
        What is older goes with the next cleaning, at most an hour later, samples and roll-ups a whole stretch at a
        time. Limits hold at once.
      </span>
      {isSuccess && !formState.isDirty && (
        <span role="status" className="ml-3 text-sm">
          saved
        </span>
      )}
    </form>
  );
}

function Held({ data }: { data: RetentionAnswer }) {
  const now = useNow(60_000);
  return (
    <>
      <h3 className="mb-1 font-bold">Held now</h3>
      <table className="w-full text-sm">
        <TableHead of={['what', 'oldest', 'rows', 'on disk']} />
        <tbody>
          {data.held.map(({ what, oldestAt, rows, bytes }) => (
            <tr key={what} className="border-b border-hair">
              <td className="py-1 pr-3">{what}</td>
              <td className="py-1 pr-3">{oldestAt === null ? 'nothing yet' : formatClock(oldestAt, now)}</td>
              <td className="py-1 pr-3">{formatCount(rows, 'row')}</td>
              <td className="py-1 pr-3">{formatBytes(bytes)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-sm text-soft">
        {data.lastCleanedAt === null ? 'Not cleaned yet.' : `Last cleaned ${formatClock(data.lastCleanedAt, now)}.`}
        {data.problem !== null && <b className="text-ink"> The last cleaning failed: {data.problem}</b>}
      </p>
    </>
  );
}
