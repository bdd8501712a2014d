import { formatCount } from '@zetopsis/core/format';
import { memo, type RefObject, useEffect, useMemo, useRef, useState } from 'react';
import { changeWords, figureWords, linkWords } from '../../drawing/linkWords.ts';
import type { OfBoxes, OfLinks } from '../../frame/mapView.ts';
import { BlindStrip, Hatch, LinkStrip } from './LinkStrip.tsx';
import { Box, cut, onEnter } from './MapBox.tsx';
import type { Measured } from './mapMeasures.ts';
import { BOX, type Drawn, type DrawnBox, type DrawnLink, heightOf } from './mapModel.ts';
import { PodWays } from './PodWays.tsx';

interface Props {
  readonly drawn: Drawn;
  /** The key of the link or box that is picked; empty: none. */
  readonly picked: string;
  readonly pick: (key: string) => void;
  readonly fold: (lane: string) => void;
  /** Shows the pods of a box in place, or no more. */
  readonly unfold: (key: string) => void;
  readonly open: (path: readonly string[]) => void;
  /** What is searched for: boxes with it stand out. */
  readonly find: string;
  readonly ofBoxes: OfBoxes;
  readonly ofLinks: OfLinks;
  /** Values of measures that boxes and links show; null: none is chosen. */
  readonly onBoxes: Measured | null;
  readonly onLinks: Measured | null;
  /** So many of its boxes stand so far: a large drawing grows. */
  readonly grown: number;
  readonly of: RefObject<SVGSVGElement | null>;
}
const STRIP = 44;
/** Of a drawing of more links than this those that are quiet are strokes without a life of their own: pick one of their boxes. */
const MANY_LINKS = 400;
/** More than these that are searched for are as good as all. */
const MOST_HITS = 60;
/** So many links are one stroke. */
const STROKE = 200;

/** Who calls whom, callers left, groups as lanes of film; what is in trouble, picked or pointed at bears its strip. */
export function MapDrawing(props: Props) {
  const { drawn, picked, pick, fold, unfold, open, find, ofBoxes, ofLinks, onBoxes, onLinks, grown, of } = props;
  const [pointed, setPointed] = useState('');
  // they stay the same, so that a box is drawn anew only when something of it changed
  const acts = useRef({ pick, fold, unfold, open });
  acts.current = { pick, fold, unfold, open };
  const [own] = useState(() => ({
    pick: (key: string) => acts.current.pick(key),
    fold: (lane: string) => acts.current.fold(lane),
    unfold: (key: string) => acts.current.unfold(key),
    open: (path: readonly string[]) => acts.current.open(path),
  }));
  const at = useMemo(() => new Map(drawn.boxes.map((box) => [box.key, box])), [drawn]);
  const shown = (link: DrawnLink) =>
    link.link.state !== null ||
    (link.link.change !== null && link.link.change !== 'gone') ||
    link.links.includes(picked) ||
    link.key === pointed ||
    link.from === picked ||
    link.to === picked;
  const lively = drawn.links.length <= MANY_LINKS ? drawn.links : drawn.links.filter(shown);
  const wanted = find.trim().toLowerCase();
  const hits = wanted === '' ? [] : drawn.boxes.filter(({ name }) => name.toLowerCase().includes(wanted));
  const standing = new Set(drawn.boxes.slice(0, grown).map(({ key }) => key));
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
      <Lanes drawn={drawn} fold={own.fold} />
      {drawn.links.length > MANY_LINKS && <QuietLinks drawn={drawn} at={at} grown={grown} />}
      {[...lively]
        .sort((a, b) => Number(shown(a)) - Number(shown(b)))
        .map((link) => {
          const [from, to] = [at.get(link.from), at.get(link.to)];
          return from && to && standing.has(from.key) && standing.has(to.key) ? (
            <LinkLine
              key={link.key}
              link={link}
              from={from}
              to={to}
              strip={shown(link)}
              pointed={link.key === pointed}
              figure={onLinks ? (onLinks.get(link.link.key) ?? '') : figureWords(link.link, ofLinks)}
              picked={link.links.includes(picked)}
              pick={own.pick}
              point={setPointed}
            />
          ) : null;
        })}
      {drawn.boxes.slice(0, grown).map((box) => (
        <Box
          key={box.key}
          box={box}
          of={ofBoxes}
          value={onBoxes?.get(box.key) ?? ''}
          picked={box.key === picked}
          acts={own}
        />
      ))}
      {lively
        .filter(({ links }) => links.length === 1 && links[0] === picked)
        .map((link) => {
          const [from, to] = [at.get(link.from), at.get(link.to)];
          const told = from?.box && to?.box && from.box.kind !== 'notYours' && to.box.kind !== 'notYours';
          return told && from.rows + to.rows > 0 ? (
            <PodWays key={link.key} link={link} from={from} to={to} of={ofBoxes} />
          ) : null;
        })}
      {hits.length > 0 && hits.length <= MOST_HITS && <Hits drawn={drawn} hits={hits} />}
    </svg>
  );
}
/** What was searched for stands out of a veil over the rest; the first of it is brought into sight. */
function Hits({ drawn, hits }: { drawn: Drawn; hits: readonly DrawnBox[] }) {
  const first = useRef<SVGGElement>(null);
  const key = hits[0]?.key;
  useEffect(() => {
    if (key !== undefined) first.current?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [key]);
  return (
    <g aria-hidden pointerEvents="none">
      <rect width={drawn.width + 30} height={drawn.height + 10} fill="var(--ground)" fillOpacity="0.7" />
      {hits.map(({ key: own, x, y, name, rows }) => (
        <g key={own} ref={own === key ? first : undefined} transform={`translate(${x} ${y})`}>
          <rect width={BOX.width} height={heightOf(rows)} fill="none" stroke="var(--petrol)" strokeWidth="2.5" />
          <rect x={2} y={2} width={BOX.width - 4} height={BOX.height - 8} fill="var(--sheet)" />
          <text x={8} y={18} fontSize="12.5" fontWeight="600" fill="var(--ink)">
            {cut(name, 18)}
          </text>
        </g>
      ))}
    </g>
  );
}
const Lanes = memo(function Lanes({ drawn, fold }: { drawn: Drawn; fold: (lane: string) => void }) {
  return drawn.lanes.map(({ name, y, height, folded, holds }, i) => (
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
        style={{ transform: 'translateX(var(--scrolled, 0px))' }}
        onClick={() => fold(name)}
        onKeyDown={(event) => onEnter(event, () => fold(name))}
      >
        {folded ? '▸' : '▾'} {name}
      </text>
    </g>
  ));
});
/** Everything that is quiet in a large drawing: some hundred links a stroke, as far as the drawing has grown. */
const QuietLinks = memo(function QuietLinks({
  drawn,
  at,
  grown,
}: {
  drawn: Drawn;
  at: ReadonlyMap<string, DrawnBox>;
  grown: number;
}) {
  const share = drawn.boxes.length === 0 ? 1 : Math.min(1, grown / drawn.boxes.length);
  const strokes = Math.ceil(Math.ceil(drawn.links.length / STROKE) * share);
  return Array.from({ length: strokes }, (_, n) => <Stroke key={n} links={drawn.links} from={n * STROKE} at={at} />);
});
const Stroke = memo(function Stroke({
  links,
  from,
  at,
}: {
  links: readonly DrawnLink[];
  from: number;
  at: ReadonlyMap<string, DrawnBox>;
}) {
  const path = links
    .slice(from, from + STROKE)
    .map((link) => {
      const [a, b] = [at.get(link.from), at.get(link.to)];
      return a && b ? courseOf(a, b).path : '';
    })
    .join('');
  return <path d={path} fill="none" stroke="var(--structure)" strokeWidth="0.9" strokeOpacity="0.6" />;
});
/** From the right end of a box to the left end of another. */
function courseOf(from: DrawnBox, to: DrawnBox) {
  const [x1, y1] = [from.x + BOX.width, from.y + BOX.height / 2];
  const [x2, y2] = [to.x, to.y + BOX.height / 2];
  const bend = to.x <= from.x ? 60 : Math.max(24, (x2 - x1) / 2);
  return { x1, y1, x2, y2, path: `M${x1} ${y1}C${x1 + bend} ${y1} ${x2 - bend} ${y2} ${x2} ${y2}` };
}

interface LineProps {
  readonly link: DrawnLink;
  readonly from: DrawnBox;
  readonly to: DrawnBox;
  readonly strip: boolean;
  /** By the pointer or the keyboard: this is how focus shows. */
  readonly pointed: boolean;
  /** What is written beside it; empty: nothing. */
  readonly figure: string;
  readonly picked: boolean;
  /** The same each time. */
  readonly pick: (key: string) => void;
  readonly point: (key: string) => void;
}
const LinkLine = memo(function LinkLine({ link, from, to, strip, pointed, figure, picked, pick, point }: LineProps) {
  const { state } = link.link;
  const { x1, y1, x2, y2, path } = courseOf(from, to);
  const [mx, my] = [(x1 + x2) / 2, (y1 + y2) / 2];
  const { change } = link.link;
  const changed = change === null ? '' : `; ${change}: ${changeWords(link.link)}`;
  const words = `${from.name} calls ${to.name}: ${state === null ? '' : `${state}, `}${linkWords(link.link)}${changed}`;
  const silent = state === 'silent';
  const blind = link.link.blindSince !== null;
  const isNew = link.link.isNew || change === 'new';
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={words}
      aria-pressed={picked}
      className="cursor-pointer outline-none"
      onClick={() => pick(link.link.key)}
      onKeyDown={(event) => onEnter(event, () => pick(link.link.key))}
      onPointerEnter={() => point(link.key)}
      onPointerLeave={() => point('')}
      onFocus={() => point(link.key)}
      onBlur={() => point('')}
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
            strokeWidth={pointed ? 3 : picked ? 2 : strip || blind ? 1.4 : 0.9}
            strokeDasharray={silent ? '14 10' : blind ? '1 4' : undefined}
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
          ) : blind ? (
            <BlindStrip width={STRIP} />
          ) : (
            <LinkStrip link={link.link} width={STRIP} />
          )}
        </g>
      )}
    </g>
  );
});
