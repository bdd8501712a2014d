import { emptyWords } from '@zetopsis/core/emptiness';
import { formatClock } from '@zetopsis/core/format';
import { useState } from 'react';
import { ShowMeasure, TellMeWhen } from '../../frame/ShowMeasure.tsx';
import { StratumChart } from './StratumChart.tsx';
import { at, compared, type StratumProps } from './stratumPoints.ts';

/** One chart of the sheet, with its table twin. Against is a thin double line. */
export function Stratum(props: StratumProps) {
  const { name, words, empty, note } = props;
  const [table, setTable] = useState(false);
  const comparing = compared(props);
  return (
    <section aria-label={name} className="border-b border-hair px-4 pt-2 pb-1">
      <div className="flex items-baseline justify-between gap-2 text-xs">
        <h3 className="shrink-0">{name}</h3>
        <span className="text-right text-soft">{words}</span>
      </div>
      {empty === null ? (
        <StratumChart {...props} />
      ) : (
        <p className="hatched my-1 flex min-h-[64px] items-center justify-center py-1 text-sm">
          <span className="bg-sheet px-2">{emptyWords(empty)}</span>
        </p>
      )}
      <div className="flex justify-between gap-2 text-[11px] text-soft">
        <span className="mr-auto">
          {note}
          {comparing && `${note === '' ? '' : ' · '}double line: the window compared with`}
        </span>
        <ShowMeasure text={props.measure} of={name} />
        <TellMeWhen text={props.measure} of={name} />
        {props.more?.map(({ word, text }) => (
          <ShowMeasure key={word} text={text} of={`${word}, ${name}`} word={word} />
        ))}
        {empty === null && (
          <button
            type="button"
            className="shrink-0 underline-offset-2 hover:text-petrol hover:underline"
            aria-expanded={table}
            aria-label={table ? `${name} as a chart only` : `${name} as a table`}
            onClick={() => setTable(!table)}
          >
            {table ? 'as a chart only' : 'as a table'}
          </button>
        )}
      </div>
      {table && <PointTable {...props} comparing={comparing} />}
    </section>
  );
}

const TABLE_ROWS = 48;

function PointTable(props: StratumProps & { comparing: boolean }) {
  const { points, lines, request, limit, amount, end, comparing } = props;
  const every = Math.max(1, Math.ceil(points.length / TABLE_ROWS));
  const rows = points.filter((_, i) => (points.length - 1 - i) % every === 0).reverse();
  const columns = [
    ...lines.flatMap((line) => [
      { key: line.key, name: line.name },
      ...(comparing ? [{ key: line.against, name: `${line.name}, against` }] : []),
    ]),
    ...(request === null ? [] : [{ key: request, name: 'request' }]),
    ...(limit === null ? [] : [{ key: limit, name: 'limit' }]),
  ];
  return (
    <div
      className="my-1 max-h-44 overflow-auto border border-line"
      role="group"
      aria-label={`${props.name}, rows`}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard
      tabIndex={0}
    >
      <table className="w-full text-xs">
        <thead className="sticky top-0 bg-ground text-left">
          <tr>
            <th className="px-2 py-1">time</th>
            {columns.map(({ key, name }) => (
              <th key={key} className="px-2 py-1">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((point) => (
            <tr key={point.at} className="border-t border-hair">
              <td className="px-2 py-0.5">{formatClock(point.at, end)}</td>
              {columns.map(({ key }) => (
                <td key={key} className="px-2 py-0.5">
                  {amount(at(point, key))}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
