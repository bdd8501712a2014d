import { formatClock, formatCount } from '@zetopsis/core/format';
import { RowSkeleton } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useDependantsQuery } from '../../state/givenApi.ts';

/** What would end with an endpoint. */
export function Dependants({ id }: { id: number }) {
  const { data, error } = useDependantsQuery(id, { refetchOnMountOrArgChange: true });
  const now = useNow();
  if (error) return <FailureText error={error} className="w-full" />;
  if (!data) return <RowSkeleton rows={1} height={20} />;
  return (
    <ul className="mb-1 w-full list-disc pl-5 text-sm">
      <li>
        {formatCount(data.series, 'series', 'series')} of {formatCount(data.metrics, 'metric')} end
        {data.firstAt !== null && `; the first was read ${formatClock(data.firstAt, now)}`}
      </li>
      {data.objects.map((object) => (
        <li key={object}>{object} is seen through it alone</li>
      ))}
      {data.stays !== null && <li>{data.stays}</li>}
    </ul>
  );
}
