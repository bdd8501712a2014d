import type { StretchesAnswer } from '@zetopsis/contract';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { useState } from 'react';
import { Link } from 'react-router';
import { csvOfRows } from '../../drawing/csv.ts';
import { pathWords } from '../../drawing/names.ts';
import { FailureNote } from '../../drawing/StateNote.tsx';
import { saveFile } from '../../drawing/saveFile.ts';
import { StretchForm } from '../../frame/StretchForm.tsx';
import { draftOfStretch } from '../../frame/stretchDraft.ts';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';
import { useStretchesQuery } from '../../state/stretchesApi.ts';

type Stretch = StretchesAnswer['stretches'][number];
const SHOWN = 12;

/** Stretches of time that were marked: found by their words, and written out. */
export function Stretches() {
  const { data, error, refetch } = useStretchesQuery();
  const [typed, setTyped] = useState('');
  const [changed, setChanged] = useState<Stretch | null>(null);
  const now = useNow(60_000);
  if (!data || data.stretches.length === 0)
    return (
      <section aria-label="stretches" className="mb-6">
        <h2 className="section-title">Stretches</h2>
        {error && !data && <FailureNote error={error} retry={() => void refetch()} />}
        {data && (
          <p className="text-sm text-soft">
            None: a load, a release or a trouble is marked on the tape below, by dragging with Shift held.
          </p>
        )}
      </section>
    );
  const wanted = typed.trim().toLowerCase();
  const fits = ({ document: { title, kind, scope } }: Stretch) =>
    `${kind} ${title} ${scope.join(' ')}`.toLowerCase().includes(wanted);
  const found = data.stretches.filter(fits);
  return (
    <section aria-label="stretches" className="mb-6">
      <div className="mb-1 flex items-baseline gap-3">
        <h2 className="section-title">Stretches</h2>
        <button
          type="button"
          className="button-plain text-sm"
          onClick={() => saveFile('stretches.csv', 'text/csv', csvOf(found))}
        >
          CSV
        </button>
        <button
          type="button"
          className="button-plain text-sm"
          onClick={() => saveFile('stretches.json', 'application/json', `${JSON.stringify(found, null, 1)}\n`)}
        >
          JSON
        </button>
      </div>
      {data.stretches.length > SHOWN / 2 && (
        <input
          aria-label="find a stretch"
          className="field mb-1"
          placeholder="a word of it"
          value={typed}
          onChange={({ target }) => setTyped(target.value)}
        />
      )}
      <ul className="text-sm">
        {found.slice(0, SHOWN).map((one) => (
          <Line key={one.key} stretch={one} now={now} change={() => setChanged(one)} />
        ))}
      </ul>
      <StretchForm
        first={changed && draftOfStretch(changed.document)}
        changed={changed?.key ?? null}
        close={() => setChanged(null)}
      />
      {found.length === 0 && <p className="text-sm text-soft">None of these words.</p>}
      {found.length > SHOWN && <p className="text-sm text-soft">and {found.length - SHOWN} more, in the file</p>}
    </section>
  );
}
function Line({
  stretch: { document, owner, mayChange },
  now,
  change,
}: {
  stretch: Stretch;
  now: number;
  change: () => void;
}) {
  const { link } = useView();
  const { kind, title, scope, note } = document;
  const from = Date.parse(document.from);
  const to = document.to === null ? null : Date.parse(document.to);
  return (
    <li className="border-b border-hair py-1.5">
      <p className="flex items-baseline gap-2">
        <Link
          className="min-w-0 flex-1 font-bold hover:text-petrol"
          to={link('/usage', { path: scope, window: { from, to: to ?? now } })}
        >
          {title}
        </Link>
        {mayChange && (
          <button type="button" className="button-plain" aria-label={`change the stretch: ${title}`} onClick={change}>
            change
          </button>
        )}
      </p>
      <p className="text-soft">
        {kind} · {formatClock(from, now)} {to === null ? 'and goes on' : `for ${formatDuration(to - from)}`} ·{' '}
        {scope.length === 0 ? 'everywhere' : pathWords(scope)}
        {owner === null ? '' : ` · ${owner}`}
      </p>
      {note !== '' && <span className="block whitespace-pre-wrap text-soft">{note}</span>}
    </li>
  );
}
const csvOf = (found: readonly Stretch[]): string =>
  csvOfRows([
    ['kind', 'title', 'where', 'from', 'to', 'team', 'note'],
    ...found.map(({ document: { kind, title, scope, from, to, team, note } }) => [
      kind,
      title,
      scope.join(' › '),
      from,
      to ?? '',
      team ?? '',
      note,
    ]),
  ]);
