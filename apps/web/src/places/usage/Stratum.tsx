import type { Mark } from '@zetopsis/contract';
import { type Emptiness, emptyWords } from '@zetopsis/core/emptiness';
import { formatClock } from '@zetopsis/core/format';
import { useState } from 'react';
import { CartesianGrid, Line, LineChart, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { Gap } from './sheetModel.ts';

const MARGIN = { top: 4, right: 2, bottom: 0, left: 0 };

type Point = object & { readonly at: number };
interface StratumLine {
  /** Where its values stand in a point. */
  readonly key: string;
  readonly name: string;
  /** Where those of the window compared with stand. */
  readonly against: string;
  /** 1 … 8: its colour. */
  readonly series: number;
}
interface Props {
  readonly name: string;
  readonly words: string;
  readonly points: readonly Point[];
  readonly lines: readonly StratumLine[];
  readonly request: string | null;
  readonly limit: string | null;
  readonly limitName: { readonly at: number; readonly name: string } | null;
  readonly top: number;
  readonly amount: (value: number | null) => string;
  /** Why there is nothing to draw; null when there is. */
  readonly empty: Emptiness | null;
  readonly marks: readonly Mark[];
  readonly start: number;
  readonly end: number;
  readonly note: string;
  /** Where nothing was read: hatched. */
  readonly gaps: readonly Gap[];
}

const at = (point: Point, key: string): number | null => {
  const value = (point as Readonly<Record<string, unknown>>)[key];
  return typeof value === 'number' ? value : null;
};
const compared = ({ points, lines }: Pick<Props, 'points' | 'lines'>): boolean =>
  lines.some(({ against }) => points.some((point) => at(point, against) !== null));

/** One chart of the sheet, with its table twin. Against is a thin double line. */
export function Stratum(props: Props) {
  const { name, words, points, lines, request, limit, limitName, top, empty, marks, start, end, note } = props;
  const [table, setTable] = useState(false);
  const comparing = compared(props);
  return (
    <section aria-label={name} className="border-b border-hair px-4 pt-2 pb-1">
      <div className="flex items-baseline justify-between gap-2 text-xs">
        <h3 className="shrink-0">{name}</h3>
        <span className="text-right text-soft">{words}</span>
      </div>
      {empty === null ? (
        <div className="relative h-[84px]" role="img" aria-label={`${name}: ${words}`}>
          <ResponsiveContainer width="100%" height="100%">
            <LineChart data={points as Point[]} syncId="sheet" syncMethod="value" margin={MARGIN}>
              <CartesianGrid vertical={false} stroke="var(--hair)" />
              <XAxis dataKey="at" type="number" domain={[start, end]} hide />
              <YAxis domain={[0, top]} hide />
              <Tooltip
                content={<PointNote {...props} />}
                isAnimationActive={false}
                cursor={{ stroke: 'var(--petrol)' }}
              />
              {marks.map((mark) => (
                <ReferenceLine
                  key={`${mark.at} ${mark.title}`}
                  x={mark.at}
                  stroke={mark.kind === 'raised' ? 'var(--critical)' : 'var(--structure)'}
                  strokeDasharray="1 3"
                />
              ))}
              {request !== null && (
                <Line
                  dataKey={request}
                  stroke="var(--soft)"
                  strokeWidth={1}
                  strokeDasharray="4 3"
                  dot={false}
                  isAnimationActive={false}
                  type="stepAfter"
                />
              )}
              {limit !== null && (
                <Line
                  dataKey={limit}
                  stroke="var(--ink)"
                  strokeWidth={1.2}
                  dot={false}
                  isAnimationActive={false}
                  type="stepAfter"
                />
              )}
              {comparing &&
                lines.flatMap((line) => [
                  <Line
                    key={`${line.key} outer`}
                    dataKey={line.against}
                    stroke="var(--ink)"
                    strokeWidth={3.6}
                    dot={false}
                    isAnimationActive={false}
                  />,
                  <Line
                    key={`${line.key} inner`}
                    dataKey={line.against}
                    stroke="var(--sheet)"
                    strokeWidth={1.8}
                    dot={false}
                    isAnimationActive={false}
                  />,
                ])}
              {lines.map((line, n) => (
                <Line
                  key={line.key}
                  dataKey={line.key}
                  stroke={`var(--series-${line.series})`}
                  strokeWidth={1.7}
                  {...(n === 0 ? {} : { strokeDasharray: '5 3' })}
                  dot={false}
                  isAnimationActive={false}
                  connectNulls={false}
                />
              ))}
            </LineChart>
          </ResponsiveContainer>
          <Gaps {...props} />
          {limitName !== null && (
            <span
              className="pointer-events-none absolute left-0.5 text-[11px] leading-none text-soft"
              style={{ top: 4 + (1 - limitName.at / top) * 80 - 12 }}
            >
              {limitName.name}
            </span>
          )}
        </div>
      ) : (
        <p className="hatched my-1 flex min-h-[64px] items-center justify-center py-1 text-sm">
          <span className="bg-sheet px-2">{emptyWords(empty)}</span>
        </p>
      )}
      <div className="flex justify-between gap-2 text-[11px] text-soft">
        <span>
          {note}
          {comparing && `${note === '' ? '' : ' · '}double line: the window compared with`}
        </span>
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

function Gaps({ gaps, start, end }: Props) {
  const share = (at: number) => ((at - start) / Math.max(1, end - start)) * 100;
  return gaps.map(({ from, to }) => (
    <span
      key={from}
      className="hatched pointer-events-none absolute top-1 bottom-0 opacity-80"
      style={{ left: `${share(from)}%`, width: `${share(to) - share(from)}%` }}
      title="nothing was read"
    />
  ));
}

interface Hovered {
  readonly active?: boolean;
  readonly payload?: readonly { readonly payload: Point }[];
}

/** Recharts hands the hovered point over. */
function PointNote({ lines, limit, amount, end, active, payload }: Props & Hovered) {
  const point = payload?.[0]?.payload;
  if (!active || !point) return null;
  const bound = limit === null ? null : at(point, limit);
  return (
    <div className="border border-structure bg-sheet px-2 py-1 text-xs">
      <b>{formatClock(point.at, end, { seconds: true })}</b>
      {lines.map((line) => {
        const then = at(point, line.against);
        return (
          <p key={line.key}>
            {lines.length > 1 && `${line.name} `}
            {amount(at(point, line.key))}
            {then !== null && <span className="text-soft"> against {amount(then)}</span>}
          </p>
        );
      })}
      {bound !== null && <p className="text-soft">of {amount(bound)}</p>}
    </div>
  );
}

const TABLE_ROWS = 48;

function PointTable(props: Props & { comparing: boolean }) {
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
