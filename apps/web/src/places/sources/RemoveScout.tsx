import { formatCount } from '@zetopsis/core/format';
import { Confirm } from '../../drawing/Confirm.tsx';
import { RowSkeleton } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { useScoutDependantsQuery } from '../../state/scoutsApi.ts';

/** Asks first, and says what is read for it and what of that goes on. */
export function RemoveScout({ name, remove }: { name: string; remove: () => void }) {
  return (
    <Confirm
      trigger="remove"
      triggerClass="button ml-auto text-critical"
      title={`Remove scout ${name}?`}
      text="Nothing is looked for by it any more. What was read is kept."
      keep="Keep it"
    >
      {(close) => (
        <>
          <Dependants name={name} />
          <button
            type="button"
            className="button"
            onClick={() => {
              remove();
              close();
            }}
          >
            Remove it
          </button>
        </>
      )}
    </Confirm>
  );
}
function Dependants({ name }: { name: string }) {
  const { data, error } = useScoutDependantsQuery(name, { refetchOnMountOrArgChange: true });
  if (error) return <FailureText error={error} className="w-full" />;
  if (!data) return <RowSkeleton rows={1} height={20} />;
  const gone = data.pages - data.goOn.reduce((sum, { pages }) => sum + pages, 0);
  return (
    <ul className="mb-1 w-full list-disc pl-5 text-sm">
      {data.pages === 0 && <li>nothing is read for it now</li>}
      {gone > 0 && (
        <li>
          {formatCount(gone, 'page')} of {data.pages} {gone === 1 ? 'is' : 'are'} read no more
          {gone === data.pages && `, with ${formatCount(data.series, 'series', 'series')}`}
        </li>
      )}
      {data.goOn.map(({ scout, pages }) => (
        <li key={scout}>
          {formatCount(pages, 'page')} {pages === 1 ? 'is' : 'are'} found by scout {scout}, too, and read on with its
          labels
        </li>
      ))}
    </ul>
  );
}
