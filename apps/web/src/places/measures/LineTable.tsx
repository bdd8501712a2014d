import { formatCount, formatPercent } from '@zetopsis/core/format';
import { valueWords } from '@zetopsis/core/measures';
import { keyOf, lastOf, type MeasureLine, type Picks, type Shown } from './measuresModel.ts';

const SHOWN = 200;

interface Props {
  readonly all: readonly Shown[];
  readonly picks: Picks;
  readonly setPicks: (picks: Picks) => void;
  readonly shownAs: string | null;
  readonly against: ReadonlyMap<string, MeasureLine>;
}

const toggled = (set: ReadonlySet<string>, key: string): ReadonlySet<string> => {
  const next = new Set(set);
  if (!next.delete(key)) next.add(key);
  return next;
};

/** Last values, largest first; each line can be pinned, hidden, or looked at alone. */
export function LineTable({ all, picks, setPicks, shownAs, against }: Props) {
  const compared = against.size > 0;
  const aside = picks.hidden.size > 0 || picks.only !== null || picks.pinned.size > 0 || picks.above !== null;
  return (
    <div className="mt-3">
      <p className="mb-1 flex flex-wrap items-center gap-x-4 text-sm">
        <b>{formatCount(all.length, 'line')}, largest last value first</b>
        <label className="ml-auto flex items-center gap-1.5 whitespace-nowrap">
          only lines that get above
          <input
            className="field w-28"
            inputMode="decimal"
            placeholder={all[0]?.line.unit || 'a value'}
            onChange={({ target }) => {
              const value = Number(target.value.replace(',', '.'));
              setPicks({ ...picks, above: target.value.trim() === '' || Number.isNaN(value) ? null : value });
            }}
          />
        </label>
        <button
          type="button"
          className="button-plain"
          disabled={!aside}
          onClick={() => setPicks({ pinned: new Set(), hidden: new Set(), only: null, above: picks.above })}
        >
          all lines
        </button>
      </p>
      <table className="w-full text-sm" aria-label="last values">
        {compared && (
          <thead className="text-left text-xs text-soft">
            <tr>
              <th />
              <th />
              <th className="text-right font-normal">last</th>
              <th className="text-right font-normal">against</th>
              <th />
              <th />
            </tr>
          </thead>
        )}
        <tbody>
          {all.slice(0, SHOWN).map((shown) => (
            <LineRow
              key={shown.key}
              shown={shown}
              picks={picks}
              setPicks={setPicks}
              shownAs={shownAs}
              then={compared ? (against.get(keyOf(shown.line)) ?? null) : undefined}
            />
          ))}
        </tbody>
      </table>
      {all.length > SHOWN && <p className="text-sm text-soft">{all.length - SHOWN} more are in the files.</p>}
    </div>
  );
}

function LineRow({
  shown: { key, line, caption, ink },
  picks,
  setPicks,
  shownAs,
  then,
}: Pick<Props, 'picks' | 'setPicks' | 'shownAs'> & {
  shown: Shown;
  /** Undefined: nothing is compared; null: it was not there. */
  then: MeasureLine | null | undefined;
}) {
  const last = lastOf(line);
  const out = picks.hidden.has(key) || (picks.only !== null && picks.only !== key);
  const picked = (word: string, pressed: boolean, next: Partial<Picks>) => (
    <button
      type="button"
      className={`px-1 text-xs hover:text-petrol ${pressed ? 'font-bold text-ink' : 'text-soft'}`}
      aria-pressed={pressed}
      aria-label={`${word} ${caption}`}
      onClick={() => setPicks({ ...picks, ...next })}
    >
      {word}
    </button>
  );
  return (
    <tr className={`border-t border-hair align-baseline ${out ? 'opacity-50' : ''}`}>
      <td className="w-7 py-0.5">
        {ink && (
          <svg width="22" height="6" aria-hidden="true">
            <path d="M0 3H22" stroke={ink.colour} strokeWidth="2" strokeDasharray={ink.dash} />
          </svg>
        )}
      </td>
      <td className="py-0.5 pr-3 break-all">{caption}</td>
      <td className="py-0.5 text-right whitespace-nowrap tabular-nums">
        {line.buckets ? (
          'buckets'
        ) : (
          <>
            {last?.[2]?.includes('at least') && 'at least '}
            {valueWords(last?.[1] ?? null, line.unit, shownAs)}
          </>
        )}
      </td>
      {then !== undefined && (
        <td className="py-0.5 pl-3 text-right whitespace-nowrap text-soft tabular-nums">
          {then === null ? 'was not there' : againstWords(last?.[1] ?? null, then, shownAs)}
        </td>
      )}
      <td className="w-24 py-0.5 pl-3 text-xs text-soft">
        {last?.[2]?.filter((flag) => flag !== 'at least').join(', ')}
      </td>
      <td className="w-36 py-0.5 text-right whitespace-nowrap">
        {picked('pin', picks.pinned.has(key), { pinned: toggled(picks.pinned, key) })}
        {picked('hide', picks.hidden.has(key), { hidden: toggled(picks.hidden, key) })}
        {picked('only this', picks.only === key, { only: picks.only === key ? null : key })}
      </td>
    </tr>
  );
}
/** The last value then, and how far this one is from it. */
function againstWords(value: number | null, then: MeasureLine, shownAs: string | null): string {
  const before = lastOf(then)?.[1] ?? null;
  const swing =
    value === null || before === null || before === 0
      ? ''
      : ` (${value >= before ? '+' : '−'}${formatPercent(Math.abs(value / before - 1))})`;
  return `${valueWords(before, then.unit, shownAs)}${swing}`;
}
