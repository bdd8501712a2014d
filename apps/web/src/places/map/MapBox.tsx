import type { MapBox } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import { formatCount, formatPercent } from '@zetopsis/core/format';
import { type KeyboardEvent, memo } from 'react';
import { fillOf } from '../../drawing/stripModel.ts';
import type { OfBoxes } from '../../frame/mapView.ts';
import { BOX, type DrawnBox, heightOf, MOST_ROWS } from './mapModel.ts';
import { podTail, usePodRows } from './podRows.ts';

export function onEnter(event: KeyboardEvent, then: () => void): void {
  if (event.key !== 'Enter' && event.key !== ' ') return;
  event.preventDefault();
  event.stopPropagation();
  then();
}
interface Props {
  readonly box: DrawnBox;
  readonly of: OfBoxes;
  /** Of the measure that boxes show; empty: none. */
  readonly value: string;
  readonly picked: boolean;
  /** The same each time. */
  readonly acts: {
    readonly pick: (key: string) => void;
    readonly fold: (lane: string) => void;
    /** Shows its pods in place, or no more. */
    readonly unfold: (key: string) => void;
    /** Leads to the sheet of what stands there. */
    readonly open: (path: readonly string[]) => void;
  };
}

const sameBox = ({ box: a, ...own }: Props, { box: b, ...other }: Props): boolean =>
  (Object.keys(own) as (keyof typeof own)[]).every((key) => own[key] === other[key]) && (a === b || alike(a, b));
const alike = (a: DrawnBox, b: DrawnBox): boolean =>
  [a.name, a.x, a.y, a.rows, a.holds, a.worst].every(
    (part, i) => part === [b.name, b.x, b.y, b.rows, b.holds, b.worst][i],
  ) &&
  a.lane === b.lane &&
  (a.box === b.box || (a.box !== null && b.box !== null && looksAlike(a.box, b.box)));
const looksAlike = (a: MapBox, b: MapBox): boolean =>
  (Object.keys(a) as (keyof MapBox)[]).every((key) => a[key] === b[key] || key === 'path');

/** A workload, whoever else calls or answers, or a folded lane; opened, with its pods. Drawn anew only when something of it changed. */
export const Box = memo(function Box({ box, of, value, picked, acts }: Props) {
  const { x, y, name, holds, rows } = box;
  const { open } = acts;
  const pick = () => (box.box === null ? acts.fold(box.lane) : acts.pick(box.key));
  const own = box.box;
  const outside = own !== null && own.kind !== 'workload';
  const share = own === null ? null : of === 'CPU' ? own.cpu : of === 'memory' ? own.memory : null;
  const severity = own === null ? box.worst : own.severity;
  const words = [
    own === null
      ? `${name}, folded: ${holds}`
      : `${name}${own.keeps === '' ? '' : `, ${own.keeps}`}${own.team === null ? '' : ` of ${own.team}`}`,
    ...(share === null ? [] : [`${of} at ${formatPercent(share)} of its limit`]),
    ...(value === '' ? [] : [value]),
    ...(severity === null ? [] : [`${severity}: ${own?.finding ?? 'within it'}`]),
  ].join('; ');
  const path = own?.path ?? null;
  const opens = path !== null && (own?.holds ?? 0) > 0;
  return (
    // places of their own instead of a shift for each box: thousands of those hold up every picture of the page
    <g data-at={`${x} ${y}`}>
      <g
        role="button"
        tabIndex={0}
        aria-label={words}
        aria-pressed={picked}
        className="cursor-pointer"
        onClick={pick}
        onDoubleClick={() => path && open(path)}
        onKeyDown={(event) => onEnter(event, pick)}
      >
        <title>{words}</title>
        <rect
          x={x}
          y={y}
          width={BOX.width}
          height={heightOf(rows)}
          fill="var(--sheet)"
          stroke={picked ? 'var(--petrol)' : 'var(--ink)'}
          strokeWidth={picked ? 2 : 1}
          strokeDasharray={outside ? '3 3' : undefined}
        />
        {own === null && (
          <path
            d={`M${x + 3} ${y + BOX.height + 3}h${BOX.width}v${-BOX.height}`}
            fill="none"
            stroke="var(--structure)"
          />
        )}
        {share !== null && <Strip share={share} y={y + BOX.height - 5} from={x + 1} width={BOX.width - 2} />}
        {value !== '' && (
          <text x={x + 8} y={y + 26} fontSize="10" fill="var(--ink)">
            {value}
          </text>
        )}
        <text
          x={x + 8}
          y={y + (value !== '' ? 14 : share === null ? 19 : 17)}
          fontSize="12.5"
          fontWeight="600"
          fill="var(--ink)"
        >
          {cut(name, 18)}
        </text>
        {own === null && (
          <text
            x={x + BOX.width - (severity === null ? 8 : 24)}
            y={y + 19}
            fontSize="11"
            textAnchor="end"
            fill="var(--soft)"
          >
            {holds}
          </text>
        )}
        {severity !== null && <Found severity={severity} x={x + BOX.width - 13} y={y + 13} size={6} />}
      </g>
      {opens && (
        <Unfold
          name={name}
          holds={own?.holds ?? 0}
          open={rows > 0}
          x={x + BOX.width - (severity === null ? 4 : 20)}
          y={y}
          toggle={() => acts.unfold(box.key)}
        />
      )}
      {rows > 0 && path && <Pods path={path} of={of} rows={rows} x={x} y={y + BOX.height} open={open} />}
    </g>
  );
}, sameBox);
export const cut = (name: string, most: number): string =>
  name.length > most ? `${name.slice(0, Math.ceil(most / 2))}…${name.slice(1 - Math.floor(most / 2))}` : name;
function Strip({ share, y, from, width }: { share: number; y: number; from: number; width: number }) {
  return (
    <>
      <path d={`M${from} ${y - 0.5}h${width}`} stroke="var(--hair)" />
      <rect x={from} y={y} width={Math.min(1, share) * width} height={4} fill={`var(--fill-${fillOf(share)})`} />
    </>
  );
}
/** The mark of a finding. */
function Found({ severity, x, y, size }: { severity: Severity; x: number; y: number; size: number }) {
  const diamond = (by: number) => `M${x} ${y - by}l${by} ${by}l${-by} ${by}l${-by} ${-by}z`;
  return severity === 'critical' ? (
    <path d={diamond(size)} fill="var(--critical)" />
  ) : (
    <path d={diamond(size - 1)} fill="none" stroke="var(--warning)" strokeWidth="1.4" />
  );
}
/** How many pods it has; opens and closes it in place. */
function Unfold({
  name,
  holds,
  open,
  x,
  y,
  toggle,
}: {
  name: string;
  holds: number;
  open: boolean;
  /** Its right end, and the top of its box. */
  x: number;
  y: number;
  toggle: () => void;
}) {
  return (
    <g
      role="button"
      tabIndex={0}
      aria-expanded={open}
      aria-label={`${formatCount(holds, 'pod')} of ${name}`}
      className="cursor-pointer hover:underline"
      onClick={toggle}
      onKeyDown={(event) => onEnter(event, toggle)}
    >
      <rect x={x - 24} y={y + 2} width={24} height={20} fill="transparent" />
      <text x={x - 2} y={y + 17} fontSize="10.5" textAnchor="end" fill="var(--soft)">
        {open ? '▾' : '▸'} {holds}
      </text>
    </g>
  );
}

/** Its pods, those that something is found of first, then those nearest to their limits. */
function Pods({
  path,
  of,
  rows,
  x,
  y,
  open,
}: Pick<Props, 'of'> & Pick<Props['acts'], 'open'> & { path: readonly string[]; rows: number; x: number; y: number }) {
  const { shown, tightness, note } = usePodRows(path, of, rows);
  const workload = path.at(-1)?.replace(/^[^:]*:/, '') ?? '';
  return (
    <g>
      <path d={`M${x} ${y + 0.5}h${BOX.width}`} stroke="var(--line)" />
      {shown.map((row, i) => {
        const share = of === 'CPU' || of === 'memory' ? tightness(row) : null;
        const top = y + i * BOX.row + 2;
        const words = [
          row.name,
          ...(share === null ? [] : [`${of} at ${formatPercent(share)} of its limit`]),
          ...(row.present ? [] : ['gone']),
          ...(row.severity === null ? [] : [`${row.severity}: ${row.finding}`]),
        ].join('; ');
        return (
          <g
            key={row.path.join('/')}
            role="link"
            tabIndex={0}
            aria-label={words}
            className="cursor-pointer hover:underline"
            onClick={() => open(row.path)}
            onKeyDown={(event) => onEnter(event, () => open(row.path))}
          >
            <title>{words}</title>
            <rect x={x + 1} y={top} width={BOX.width - 2} height={BOX.row} fill="transparent" />
            <text x={x + 12} y={top + 11} fontSize="10.5" fill={row.present ? 'var(--ink)' : 'var(--soft)'}>
              {podTail(row.name, workload)}
            </text>
            {share !== null && <Strip share={share} y={top + BOX.row - 4} from={x + 12} width={BOX.width - 24} />}
            {row.severity !== null && <Found severity={row.severity} x={x + BOX.width - 13} y={top + 7} size={4} />}
          </g>
        );
      })}
      {note !== '' && (
        <text
          x={x + 12}
          y={y + (shown.length === 0 ? 0 : Math.min(rows, MOST_ROWS) - 1) * BOX.row + 13}
          fontSize="10.5"
          fill="var(--soft)"
        >
          {note}
        </text>
      )}
    </g>
  );
}
