import type { Severity } from '@zetopsis/core/findings';
import { formatCount, formatPercent } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { type KeyboardEvent, type RefObject, useState } from 'react';
import { changeWords, figureWords, linkWords } from '../../drawing/linkWords.ts';
import { fillOf } from '../../drawing/stripModel.ts';
import type { OfBoxes, OfLinks } from '../../frame/mapView.ts';
import { Hatch, LinkStrip } from './LinkStrip.tsx';
import type { Measured } from './mapMeasures.ts';
import { BOX, type Drawn, type DrawnBox, type DrawnLink } from './mapModel.ts';

interface Props {
  readonly drawn: Drawn;
  /** The key of the link or box that is picked; empty: none. */
  readonly picked: string;
  readonly pick: (key: string) => void;
  readonly fold: (lane: string) => void;
  readonly open: (box: DrawnBox) => void;
  /** What is searched for: boxes without it stand back. */
  readonly find: string;
  readonly ofBoxes: OfBoxes;
  readonly ofLinks: OfLinks;
  /** Values of measures that boxes and links show; null: none is chosen. */
  readonly onBoxes: Measured | null;
  readonly onLinks: Measured | null;
  readonly of: RefObject<SVGSVGElement | null>;
}
const STRIP = 44;

/** Who calls whom, callers left, groups as lanes of film; what is in trouble, picked or pointed at bears its strip. */
export function MapDrawing({ drawn, picked, pick, fold, open, find, ofBoxes, ofLinks, onBoxes, onLinks, of }: Props) {
  const [pointed, setPointed] = useState('');
  const at = new Map(drawn.boxes.map((box) => [box.key, box]));
  const shown = (link: DrawnLink) =>
    link.link.state !== null ||
    (link.link.change !== null && link.link.change !== 'gone') ||
    link.links.includes(picked) ||
    link.key === pointed ||
    link.from === picked ||
    link.to === picked;
  const wanted = find.trim().toLowerCase();
  const stands = ({ name }: DrawnBox) => wanted === '' || name.toLowerCase().includes(wanted);
  return (
    <svg
      ref={of}
      role="group"
      aria-label="drawing of links"
      width={drawn.width + 30}
      height={drawn.height + 10}
      viewBox={`0 0 ${drawn.width + 30} ${drawn.height + 10}`}
      className="block text-ink"
      fontFamily="inherit"
    >
      <Hatch />
      {drawn.lanes.map(({ name, y, height, folded, holds }, i) => (
        <g key={name}>
          <rect
            x={0.5}
            y={y + 0.5}
            width={drawn.width + 20}
            height={height - 4}
            fill={i % 2 === 0 ? 'var(--sheet)' : 'none'}
            fillOpacity="0.55"
            stroke="var(--hair)"
          />
          <text
            x={6}
            y={y + 15}
            fontSize="11"
            fill="var(--soft)"
            role="button"
            tabIndex={0}
            aria-expanded={!folded}
            aria-label={`${name}: ${formatCount(holds, 'box', 'boxes')}`}
            className="cursor-pointer hover:underline"
            onClick={() => fold(name)}
            onKeyDown={(event) => onEnter(event, () => fold(name))}
          >
            {folded ? '▸' : '▾'} {name}
          </text>
        </g>
      ))}
      {[...drawn.links]
        .sort((a, b) => Number(shown(a)) - Number(shown(b)))
        .map((link) => {
          const [from, to] = [at.get(link.from), at.get(link.to)];
          return from && to ? (
            <LinkLine
              key={link.key}
              link={link}
              from={from}
              to={to}
              strip={shown(link)}
              pointed={link.key === pointed}
              figure={onLinks ? (onLinks.get(link.link.key) ?? '') : figureWords(link.link, ofLinks)}
              picked={link.links.includes(picked)}
              pick={() => pick(link.link.key)}
              point={(on) => setPointed(on ? link.key : '')}
            />
          ) : null;
        })}
      {drawn.boxes.map((box) => (
        <Box
          key={box.key}
          box={box}
          of={ofBoxes}
          value={onBoxes?.get(box.key) ?? ''}
          picked={box.key === picked}
          back={!stands(box)}
          pick={() => (box.box === null ? fold(box.lane) : pick(box.key))}
          open={() => open(box)}
        />
      ))}
    </svg>
  );
}
function onEnter(event: KeyboardEvent, then: () => void): void {
  if (event.key !== 'Enter' && event.key !== ' ') return;
  event.preventDefault();
  event.stopPropagation();
  then();
}

function Box({
  box,
  of,
  value,
  picked,
  back,
  pick,
  open,
}: {
  box: DrawnBox;
  of: OfBoxes;
  /** Of the measure that boxes show; empty: none. */
  value: string;
  picked: boolean;
  back: boolean;
  pick: () => void;
  open: () => void;
}) {
  const { x, y, name, holds } = box;
  const outside = box.box !== null && box.box.kind !== 'workload';
  const share = box.box === null ? null : of === 'CPU' ? box.box.cpu : of === 'memory' ? box.box.memory : null;
  const severity = box.box === null ? box.worst : box.box.severity;
  const words = [
    box.box === null
      ? `${name}, folded: ${holds}`
      : `${name}${box.box.keeps === '' ? '' : `, ${box.box.keeps}`}${box.box.team === null ? '' : ` of ${box.box.team}`}`,
    ...(share === null ? [] : [`${of} at ${formatPercent(share)} of its limit`]),
    ...(value === '' ? [] : [value]),
    ...(severity === null ? [] : [`${severity}: ${box.box?.finding ?? 'within it'}`]),
  ].join('; ');
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={words}
      aria-pressed={picked}
      transform={`translate(${x} ${y})`}
      className={clsx('cursor-pointer', back && 'opacity-25')}
      onClick={pick}
      onDoubleClick={open}
      onKeyDown={(event) => onEnter(event, pick)}
    >
      <title>{words}</title>
      <rect
        width={BOX.width}
        height={BOX.height}
        fill="var(--sheet)"
        stroke={picked ? 'var(--petrol)' : 'var(--ink)'}
        strokeWidth={picked ? 2 : 1}
        strokeDasharray={outside ? '3 3' : undefined}
      />
      {box.box === null && <path d={`M3 ${BOX.height + 3}H${BOX.width + 3}V3`} fill="none" stroke="var(--structure)" />}
      {share !== null && (
        <>
          <path d={`M1 ${BOX.height - 5.5}H${BOX.width - 1}`} stroke="var(--hair)" />
          <rect
            x={1}
            y={BOX.height - 5}
            width={Math.min(1, share) * (BOX.width - 2)}
            height={4}
            fill={`var(--fill-${fillOf(share)})`}
          />
        </>
      )}
      {value !== '' && (
        <text x={8} y={26} fontSize="10" fill="var(--ink)">
          {value}
        </text>
      )}
      <text x={8} y={value !== '' ? 14 : share === null ? 19 : 17} fontSize="12.5" fontWeight="600" fill="var(--ink)">
        {name.length > 18 ? `${name.slice(0, 9)}…${name.slice(-8)}` : name}
      </text>
      {box.box === null && (
        <text x={BOX.width - (severity === null ? 8 : 24)} y={19} fontSize="11" textAnchor="end" fill="var(--soft)">
          {holds}
        </text>
      )}
      {severity !== null && <Found severity={severity} />}
    </g>
  );
}
/** The mark of a finding, at the end of the box. */
function Found({ severity }: { severity: Severity }) {
  return severity === 'critical' ? (
    <path d={`M${BOX.width - 13} 7l6 6l-6 6l-6 -6z`} fill="var(--critical)" />
  ) : (
    <path d={`M${BOX.width - 13} 8l5 5l-5 5l-5 -5z`} fill="none" stroke="var(--warning)" strokeWidth="1.4" />
  );
}

function LinkLine({
  link,
  from,
  to,
  strip,
  pointed,
  figure,
  picked,
  pick,
  point,
}: {
  link: DrawnLink;
  from: DrawnBox;
  to: DrawnBox;
  strip: boolean;
  /** By the pointer or the keyboard: this is how focus shows. */
  pointed: boolean;
  /** What is written beside it; empty: nothing. */
  figure: string;
  picked: boolean;
  pick: () => void;
  point: (on: boolean) => void;
}) {
  const { state } = link.link;
  const back = to.x <= from.x;
  const [x1, y1] = [from.x + BOX.width, from.y + BOX.height / 2];
  const [x2, y2] = [to.x, to.y + BOX.height / 2];
  const bend = back ? 60 : Math.max(24, (x2 - x1) / 2);
  const path = `M${x1} ${y1}C${x1 + bend} ${y1} ${x2 - bend} ${y2} ${x2} ${y2}`;
  const [mx, my] = [(x1 + x2) / 2, (y1 + y2) / 2];
  const { change } = link.link;
  const changed = change === null ? '' : `; ${change}: ${changeWords(link.link)}`;
  const words = `${from.name} calls ${to.name}: ${state === null ? '' : `${state}, `}${linkWords(link.link)}${changed}`;
  const silent = state === 'silent';
  const isNew = link.link.isNew || change === 'new';
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={words}
      aria-pressed={picked}
      className="cursor-pointer outline-none"
      onClick={pick}
      onKeyDown={(event) => onEnter(event, pick)}
      onPointerEnter={() => point(true)}
      onPointerLeave={() => point(false)}
      onFocus={() => point(true)}
      onBlur={() => point(false)}
    >
      <title>{words}</title>
      <path d={path} fill="none" stroke="transparent" strokeWidth="10" />
      {change === 'gone' ? (
        <path
          d={`M${x1} ${y1}h22m0 -5v10M${x2} ${y2}h-22m0 -5v10`}
          fill="none"
          stroke={picked || pointed ? 'var(--petrol)' : 'var(--ink)'}
          strokeWidth={pointed ? 3 : picked ? 2 : 1.4}
        />
      ) : (
        <>
          <path
            d={path}
            fill="none"
            stroke={picked || pointed ? 'var(--petrol)' : state === null ? 'var(--structure)' : 'var(--ink)'}
            strokeWidth={pointed ? 3 : picked ? 2 : strip ? 1.4 : 0.9}
            strokeDasharray={silent ? '14 10' : undefined}
          />
          <path d={`M${x2 - 5} ${y2 - 3}L${x2} ${y2}L${x2 - 5} ${y2 + 3}`} fill="none" stroke="var(--structure)" />
        </>
      )}
      {isNew && <path d={`M${mx - 4} ${my}h8M${mx} ${my - 4}v8`} stroke="var(--ink)" strokeWidth="1.4" />}
      {figure !== '' && (
        <text
          x={mx}
          y={my + (strip ? 18 : -4)}
          fontSize="10"
          textAnchor="middle"
          fill="var(--ink)"
          stroke="var(--ground)"
          strokeWidth="3"
          paintOrder="stroke"
        >
          {figure}
        </text>
      )}
      {strip && !isNew && change !== 'gone' && (
        <g transform={`translate(${mx - STRIP / 2} ${my - 6})`}>
          {silent ? (
            <g>
              <rect
                x={0}
                y={0}
                width={STRIP}
                height={12}
                fill="var(--sheet)"
                stroke="var(--critical)"
                strokeDasharray="3 3"
              />
              <path d={`M${STRIP / 2 - 6} 6h12`} stroke="var(--critical)" strokeWidth="2" />
            </g>
          ) : (
            <LinkStrip link={link.link} width={STRIP} />
          )}
        </g>
      )}
    </g>
  );
}
