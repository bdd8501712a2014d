import { zodResolver } from '@hookform/resolvers/zod';
import { type RetentionAnswer, RetentionDocument } from '@zetopsis/contract';
import { formatBytes, formatClock, formatCount } from '@zetopsis/core/format';
import { useForm } from 'react-hook-form';
import { Field } from '../drawing/Field.tsx';
import { FormFailure } from '../drawing/FormFailure.tsx';
import { FailureNote, RowSkeleton } from '../drawing/StateNote.tsx';
import { TableHead } from '../drawing/TableHead.tsx';
import { useNow } from '../frame/useNow.ts';
import { useChangeRetentionMutation, useRetentionQuery } from '../state/adminApi.ts';

const FIELDS = [
  { name: 'samplesDays', label: 'Readings, days' },
  { name: 'versionsDays', label: 'States of objects, days' },
  { name: 'eventsDays', label: 'Events of clusters, days' },
  { name: 'alertsDays', label: 'Ended alerts, days' },
] as const;

/** How long what is kept. */
export function Retention() {
  const { data, error, refetch } = useRetentionQuery();
  if (!data)
    return error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={5} height={40} />;
  return (
    <section aria-label="retention" className="max-w-4xl">
      <div className="mb-3 flex items-baseline gap-3">
        <h2 className="section-title">Retention</h2>
        <p className="text-sm text-soft">revisions and the audit log are kept for ever</p>
      </div>
      <RetentionForm key={JSON.stringify(data.keep)} keep={data.keep} />
      <Held data={data} />
    </section>
  );
}

function RetentionForm({ keep }: { keep: RetentionDocument }) {
  const [change, { error, isLoading, isSuccess }] = useChangeRetentionMutation();
  const { register, handleSubmit, formState } = useForm({
    resolver: zodResolver(RetentionDocument),
    defaultValues: keep,
  });
  return (
    <form onSubmit={(event) => void handleSubmit((values) => change(values))(event)} noValidate className="mb-6">
      <div className="grid grid-cols-4 gap-4">
        {FIELDS.map(({ name, label }) => (
          <Field key={name} id={`keep-${name}`} label={label} error={formState.errors[name]?.message}>
            <input id={`keep-${name}`} className="field" inputMode="numeric" {...register(name)} />
          </Field>
        ))}
      </div>
      <FormFailure error={error} />
      <button type="submit" className="button" disabled={isLoading || !formState.isDirty}>
        Save
      </button>
      <span className="ml-3 text-sm text-soft">What is older goes with the next cleaning, at most an hour later.</span>
      {isSuccess && (
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
              <td className="py-1 pr-3">{oldestAt === null ? '–' : formatClock(oldestAt, now)}</td>
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
