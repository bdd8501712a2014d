import { formatCount } from '@zetopsis/core/format';
import { INVENTORY_VITALS, valueWords, vitalMeasure } from '@zetopsis/core/measures';
import { VITAL_NAMES, vitalOf } from '@zetopsis/core/vitals';
import { useDeferredValue, useState } from 'react';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { Trace } from '../../drawing/Trace.tsx';
import { useMetricNamesQuery } from '../../state/measuresApi.ts';
import type { Saved } from './SavedMeasure.tsx';

/** A long name may be broken behind its underscores. */
const breakable = (name: string) => name.replaceAll(/[_.:]/g, '$&\u200b');
/** A counter stands by the second. */
const unitOf = (type: string, unit: string): string =>
  type === 'gauge'
    ? unit
    : unit === 'seconds' && type === 'counter'
      ? 'cores'
      : unit === 'bytes'
        ? 'bytes per second'
        : 'per second';

const has = (text: string, find: string): boolean => text.toLowerCase().includes(find.trim().toLowerCase());

function SavedList({
  saved,
  find,
  choose,
}: {
  saved: readonly Saved[];
  find: string;
  choose: (measure: Saved) => void;
}) {
  const shown = saved.filter(({ title, note }) => has(`${title} ${note}`, find));
  if (shown.length === 0) return null;
  return (
    <section aria-label="saved measures" className="mb-1">
      <h3 className="text-xs text-soft">saved measures</h3>
      <ul>
        {shown.map((measure) => (
          <li key={measure.key} className="border-b border-hair py-1">
            <button
              type="button"
              className="w-full text-left text-sm hover:text-petrol"
              title={measure.note}
              onClick={() => choose(measure)}
            >
              {measure.title}
              <span className="block text-xs text-soft">
                {measure.team === null ? 'everybody’s' : (measure.owner ?? measure.team)}
                {measure.problem === null ? '' : ' · it does not work at present'}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

const VITALS = [
  ...VITAL_NAMES.map((name) => ({ name, counts: vitalOf(name).counts })),
  ...INVENTORY_VITALS.map((name) => ({ name, counts: false })),
];
/** What every cluster has, under whatever names its pages have it. */
function Vitals({ find, choose }: { find: string; choose: (text: string) => void }) {
  const [open, setOpen] = useState(false);
  const shown = VITALS.filter(({ name }) => has(name, find));
  const all = open || find.trim() !== '';
  if (shown.length === 0) return null;
  return (
    <section aria-label="vitals" className="mb-1">
      <h3 className="flex justify-between text-xs text-soft">
        vitals: the same name in every cluster
        {find.trim() === '' && (
          <button type="button" className="button-plain" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? 'fewer' : `all ${VITALS.length}`}
          </button>
        )}
      </h3>
      <ul>
        {shown.slice(0, all ? VITALS.length : FIRST).map(({ name, counts }) => (
          <li key={name}>
            <button
              type="button"
              className="w-full py-0.5 text-left font-mono text-xs break-words hover:text-petrol"
              onClick={() => choose(vitalMeasure(name, counts))}
            >
              {breakable(name)}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
const FIRST = 3;

/** What there is to be read; a click begins a measure that suits it. */
export function MetricList({
  choose,
  saved,
  chooseSaved,
}: {
  choose: (text: string) => void;
  saved: readonly Saved[];
  chooseSaved: (measure: Saved) => void;
}) {
  const [find, setFind] = useState('');
  const { data, error, refetch } = useMetricNamesQuery(useDeferredValue(find.trim()));
  return (
    <aside aria-label="metrics" className="flex w-72 shrink-0 flex-col border-r border-line">
      <div className="border-b border-line px-4 py-2">
        <input
          aria-label="find a metric"
          className="field"
          placeholder="name, meaning or unit"
          value={find}
          onChange={({ target }) => setFind(target.value)}
        />
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto px-4 py-1">
        <SavedList saved={saved} find={find} choose={chooseSaved} />
        <Vitals find={find} choose={choose} />
        <h3 className="mt-2 text-xs text-soft">metrics as their pages name them</h3>
        {!data &&
          (error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={10} height={38} />)}
        {data?.metrics.length === 0 && (
          <p className="py-3 text-sm text-soft">
            {find.trim() === ''
              ? 'Nothing was read yet, as far as you may see.'
              : 'No metric has this in its name, in what its page says of it, or as its unit.'}
          </p>
        )}
        <ul>
          {data?.metrics.map(({ name, type, unit, series, text, help, from, last, trace }) => (
            <li key={name} className="border-b border-hair py-1">
              <button
                type="button"
                className="w-full text-left hover:text-petrol"
                aria-label={`ask about ${name}`}
                title={`${help === '' ? 'Its page says nothing of it.' : help}\nread from ${from}`}
                onClick={() => choose(text)}
              >
                <span className="font-mono text-xs break-words">{breakable(name)}</span>
                <span className="grid grid-cols-[1fr_52px] items-end gap-2">
                  <span className="min-w-0 text-xs text-soft">
                    {[type, unit, formatCount(series, 'series', 'series')].filter((part) => part !== '').join(' · ')}
                    {last !== null && (
                      <span className="block">
                        {series > 1 ? 'one of them ' : ''}
                        {valueWords(last, unitOf(type, unit), null)}
                      </span>
                    )}
                  </span>
                  <Trace values={trace} height={18} />
                </span>
              </button>
            </li>
          ))}
        </ul>
        {data !== undefined && data.left > 0 && (
          <p className="py-2 text-sm text-soft">{data.left} more: type a part of the name.</p>
        )}
      </div>
    </aside>
  );
}
