import type { UsageLevel, UsageRow } from '@zetopsis/contract';
import { clsx } from 'clsx';
import { memo, useEffect, useRef } from 'react';
import { CutName } from '../../drawing/CutName.tsx';
import { Diamond } from '../../drawing/Diamond.tsx';
import { figuresOf, type Looked, thenOf } from '../../drawing/looked.ts';
import { MirrorStrip } from '../../drawing/MirrorStrip.tsx';
import { differInHash, lastName, shortPodName } from '../../drawing/names.ts';
import { isMarkName, OwnMark } from '../../drawing/OwnMark.tsx';
import { goneWords, isNobodys, isOthers } from '../../drawing/rows.ts';
import { Strip } from '../../drawing/Strip.tsx';
import { COUNTED, openLengthOf } from '../../drawing/stripModel.ts';
import { hasNone, mirrorScale, rowAmount, rowInWords, rowShare, swingInWords, swingShort } from './columnModel.ts';

/** Height of a row, in pixels. */
export const ROW = 47;

/** What a row must know of all rows of its column: worked out once for them. */
export interface ColumnFacts {
  /** What the length of open strips stands for. */
  readonly openLength: number;
  /** Some of them have a bound, so that there is a share to be told. */
  readonly bounded: boolean;
  /** Pods of more than one version of their workload. */
  readonly hash: boolean;
  /** What the length of mirrored strips stands for. */
  readonly scale: number;
}
export const factsOf = (rows: readonly UsageRow[], resource: Looked): ColumnFacts => ({
  openLength: openLengthOf(rows.map((row) => ({ figures: figuresOf(row, resource), against: thenOf(row, resource) }))),
  bounded: rows.some((row) => rowShare(row, resource) !== ''),
  hash: differInHash(rows.map(({ name }) => name)),
  scale: mirrorScale(rows, resource),
});

interface Props {
  readonly row: UsageRow;
  readonly level: UsageLevel;
  readonly facts: ColumnFacts;
  /** The path of its column. */
  readonly parent: readonly string[];
  readonly chosen: boolean;
  readonly tabbable: boolean;
  readonly resource: Looked;
  readonly narrow: boolean;
  readonly cuts: readonly number[];
  readonly active: boolean;
  readonly awaited: boolean;
  readonly comparing: boolean;
  readonly mirror: boolean;
  readonly choose: (path: string[]) => void;
}

/** One row of a column with its strip. Of a long column only what is new in sight is drawn anew. */
export const DrillRow = memo(function DrillRow(props: Props) {
  const { row, level, facts, parent, chosen, tabbable, resource, narrow, cuts, active, awaited, comparing, mirror } =
    props;
  const others = isNobodys(row);
  const button = useRef<HTMLDivElement>(null);
  useEffect(() => {
    // the focus follows the choice, so that a screen reader tells where the arrows led
    const focused = document.activeElement;
    if (chosen && active && (focused === document.body || focused?.getAttribute('role') === 'option'))
      button.current?.focus({ preventScroll: true });
  }, [chosen, active]);
  const mono = level === 'pod' && !others;
  const name = isOthers(row)
    ? 'others'
    : mono && parent.length === 3
      ? shortPodName(row.name, lastName(parent), facts.hash)
      : row.name;
  return (
    <div
      ref={button}
      role="option"
      aria-selected={chosen}
      aria-label={rowInWords(row, resource)}
      aria-disabled={others}
      tabIndex={tabbable ? 0 : -1}
      title={isOthers(row) ? 'everybody else as one share: outside what you look at, or not granted to you' : row.name}
      onClick={() => !others && props.choose([...parent, row.key])}
      onKeyDown={(event) => {
        if (event.key !== ' ' || others) return;
        event.preventDefault();
        props.choose([...parent, row.key]);
      }}
      className={clsx(
        'border-b border-hair px-3 py-1.5 -outline-offset-2',
        others ? 'text-soft' : 'cursor-pointer',
        chosen ? 'bg-sheet' : !others && 'hover:bg-sheet/60',
        !row.present && 'text-soft',
      )}
      style={{ height: ROW }}
    >
      <div className="flex items-baseline gap-1.5 text-sm whitespace-nowrap">
        {row.severity && <Diamond severity={row.severity} size={10} />}
        {row.kind && row.kind !== 'deployment' && row.kind !== 'main' && isMarkName(row.kind) && !narrow && (
          <OwnMark name={row.kind} size={13} label={row.kind} />
        )}
        <CutName name={name} className={clsx(mono && 'font-mono text-xs', chosen ? 'font-bold' : 'font-medium')} />
        {!narrow && <span className="ml-auto">{awaited ? '…' : rowAmount(row, resource)}</span>}
        {!narrow && (comparing || facts.bounded || !row.present) && (
          <span
            className={clsx('w-[46px] shrink-0 text-right text-xs', comparing ? 'text-ink' : 'text-soft')}
            title={row.present ? (swingInWords(row, resource) ?? undefined) : goneWords(row.goneAt)}
          >
            {comparing ? swingShort(row, resource) : row.present ? rowShare(row, resource) : 'gone'}
          </span>
        )}
      </div>
      <div className={clsx('mt-0.5', !row.present && 'opacity-55')}>
        {hasNone(row, resource) && !awaited ? null : row.kind === 'unused' || row.kind === 'free' ? (
          <SpareStrip row={row} resource={resource} />
        ) : mirror ? (
          <MirrorStrip
            of={COUNTED[resource]}
            window={figuresOf(row, resource).mean}
            against={thenOf(row, resource)?.mean ?? null}
            scale={facts.scale}
          />
        ) : (
          <Strip
            of={COUNTED[resource]}
            figures={figuresOf(row, resource)}
            against={thenOf(row, resource)}
            openLength={facts.openLength}
            silent
            {...(chosen ? { cuts } : {})}
          />
        )}
      </div>
    </div>
  );
});

/** What nobody uses is no fill: an outline as long as it is. */
function SpareStrip({ row, resource }: { row: UsageRow; resource: Looked }) {
  const { use, limit } = figuresOf(row, resource);
  const share = use === null || limit === null || limit === 0 ? 0 : Math.min(1, use / limit);
  return (
    <div className="mt-1 h-[9px] border-b border-structure">
      <div className="h-full border border-b-0 border-structure border-dashed" style={{ width: `${share * 100}%` }} />
    </div>
  );
}
