import type { RawPage } from '@zetopsis/contract';
import { formatBytes, formatClock, formatCount } from '@zetopsis/core/format';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useRawPageQuery } from '../../state/endpointsApi.ts';

const LINES_SHOWN = 600;

/** The page as it came, beside what was understood of it. */
export function RawPageView({ id }: { id: number }) {
  const { data, error, refetch } = useRawPageQuery(id, { refetchOnMountOrArgChange: true });
  if (data) return <Page page={data} again={() => void refetch()} />;
  return error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={8} height={40} />;
}

function Page({ page, again }: { page: RawPage; again: () => void }) {
  const now = useNow();
  const lines = page.text.split('\n');
  const wrong = new Map(page.problems.map((problem) => [problem.line, problem.text]));
  return (
    <>
      <p className="mb-2 text-sm text-soft">
        read at {formatClock(page.readAt, now, { seconds: true })}, {formatBytes(page.bytes)},{' '}
        {page.contentType || 'no type given'} ·{' '}
        <button type="button" className="button-plain" onClick={again}>
          show the newest
        </button>
      </p>
      <h3 className="mb-1 text-sm">Understood</h3>
      <table className="mb-3 w-full text-sm">
        <tbody>
          {page.families.map((family) => (
            <tr key={family.name} className="border-t border-hair">
              <td className="py-0.5 pr-2 font-mono text-xs break-all">{family.name}</td>
              <td className="py-0.5 pr-2 text-soft">{family.type}</td>
              <td className="py-0.5 pr-2 text-soft">{family.unit}</td>
              <td className="py-0.5 text-right">{family.samples}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h3 className="mb-1 text-sm">
        {page.problemCount === 0
          ? 'No line was left out'
          : `${formatCount(page.problemCount, 'problem')}; the lines count for nothing`}
      </h3>
      <ul className="mb-3 text-sm">
        {page.problems.map((problem) => (
          <li key={`${problem.line} ${problem.code}`}>
            <b>
              line {problem.line}, column {problem.column}:
            </b>{' '}
            {problem.text}
          </li>
        ))}
      </ul>
      <h3 className="mb-1 text-sm">As it came</h3>
      <ol className="overflow-x-auto font-mono text-[11px] leading-snug whitespace-pre">
        {lines.slice(0, LINES_SHOWN).map((line, i) => (
          <li key={i} className={wrong.has(i + 1) ? 'bg-ground font-bold' : undefined} title={wrong.get(i + 1)}>
            <span className="mr-3 inline-block w-8 text-right text-soft select-none">{i + 1}</span>
            {line}
          </li>
        ))}
      </ol>
      {(lines.length > LINES_SHOWN || page.cut) && (
        <p className="mt-2 text-sm text-soft">The rest of the page is not shown.</p>
      )}
    </>
  );
}
