import type { AuditEntry } from '@zetopsis/contract';
import { formatClock } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { useDeferredValue, useState } from 'react';
import { OlderButton } from '../../drawing/OlderButton.tsx';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { TableHead } from '../../drawing/TableHead.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useAuditInfiniteQuery } from '../../state/auditApi.ts';

const BY = [
  { by: 'anyone', words: 'by anyone' },
  { by: 'people', words: 'by people' },
  { by: 'zetopsis', words: 'by Zetopsis itself' },
] as const;

export function Audit() {
  const [text, setText] = useState('');
  const [by, setBy] = useState<(typeof BY)[number]['by']>('anyone');
  const searched = useDeferredValue(text);
  const { data, error, refetch, hasNextPage, fetchNextPage, isFetchingNextPage } = useAuditInfiniteQuery({
    text: searched,
    by,
  });
  const now = useNow(60_000);
  const entries = data?.pages.flatMap((page) => page.entries) ?? [];
  return (
    <section aria-label="audit">
      <div className="mb-2 flex items-baseline gap-3">
        <h2 className="section-title">Audit</h2>
        <p className="text-sm text-soft">every change and sign-in, refused ones too; nothing is ever taken back</p>
      </div>
      <div className="mb-2 flex gap-3">
        <label>
          <span className="sr-only">search the audit log</span>
          <input
            className="field w-72"
            placeholder="who, what, on what, outcome"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
        </label>
        <select
          aria-label="whose actions"
          className="field w-44"
          value={by}
          onChange={(event) => setBy(BY.find((one) => one.by === event.target.value)?.by ?? 'anyone')}
        >
          {BY.map((one) => (
            <option key={one.by} value={one.by}>
              {one.words}
            </option>
          ))}
        </select>
      </div>
      {!data && error && <FailureNote error={error} retry={() => void refetch()} />}
      {!data && !error && <RowSkeleton rows={10} height={32} />}
      {data && entries.length === 0 && (
        <p className="text-soft">{text === '' ? 'Nothing has been done yet.' : 'No entry fits.'}</p>
      )}
      {entries.length > 0 && (
        <table className="w-full text-sm">
          <TableHead of={['when', 'who', 'what', 'on', 'outcome', 'from']} />
          <tbody>
            {entries.map((entry) => (
              <Row key={entry.id} entry={entry} now={now} />
            ))}
          </tbody>
        </table>
      )}
      <OlderButton what="entries" pages={{ hasNextPage, isFetchingNextPage, fetchNextPage }} />
    </section>
  );
}

function Row({ entry, now }: { entry: AuditEntry; now: number }) {
  return (
    <tr className="border-b border-hair align-baseline">
      <td className="py-1 pr-3 whitespace-nowrap text-soft">{formatClock(entry.at, now, { seconds: true })}</td>
      <td className={clsx('py-1 pr-3 whitespace-nowrap', entry.by === 'person' ? 'font-semibold' : 'text-soft')}>
        {entry.who}
      </td>
      <td className="py-1 pr-3">{entry.action}</td>
      <td className="py-1 pr-3 break-all">{entry.on}</td>
      <td className="py-1 pr-3">
        {entry.outcome === 'done' ? (
          <span className="text-soft">done</span>
        ) : (
          <b className="font-semibold">{entry.outcome}</b>
        )}
        {entry.detail !== '' && <p className="max-w-md text-soft">{entry.detail}</p>}
      </td>
      <td className="py-1 font-mono text-xs text-soft">{entry.from}</td>
    </tr>
  );
}
