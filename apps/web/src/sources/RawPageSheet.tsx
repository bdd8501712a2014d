import type { EndpointAnswer, RawPage } from '@zetopsis/contract';
import { formatBytes, formatClock, formatCount } from '@zetopsis/core/format';
import { X } from 'lucide-react';
import { FailureNote, RowSkeleton } from '../drawing/StateNote.tsx';
import { useNow } from '../frame/useNow.ts';
import { useRawPageQuery } from '../state/sourcesApi.ts';

const LINES_SHOWN = 600;

/** The page as it came, beside what was understood of it. */
export function RawPageSheet({ endpoint, close }: { endpoint: EndpointAnswer; close: () => void }) {
  const { data, error, refetch } = useRawPageQuery(endpoint.id, { refetchOnMountOrArgChange: true });
  return (
    <aside
      aria-label={`page of ${endpoint.node}`}
      className="flex w-[560px] shrink-0 flex-col border-l border-line bg-sheet"
    >
      <header className="border-b border-line px-4 py-3">
        <div className="flex items-baseline justify-between">
          <h2 className="text-xl">{endpoint.node}</h2>
          <button type="button" className="flex items-center gap-1 text-xs text-soft hover:text-petrol" onClick={close}>
            <X size={13} /> Esc
          </button>
        </div>
        <p className="font-mono text-xs break-all text-soft">{endpoint.address}</p>
      </header>
      <div className="min-h-0 flex-1 overflow-auto px-4 py-2">
        {data ? (
          <Page page={data} again={() => void refetch()} />
        ) : error ? (
          <FailureNote error={error} retry={() => void refetch()} />
        ) : (
          <RowSkeleton rows={8} height={40} />
        )}
      </div>
    </aside>
  );
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
