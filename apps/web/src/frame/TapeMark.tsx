import type { Mark } from '@zetopsis/contract';
import { formatClock } from '@zetopsis/core/format';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { Link } from 'react-router';
import { Diamond } from '../drawing/Diamond.tsx';
import { pathWords } from '../drawing/names.ts';
import { OwnMark } from '../drawing/OwnMark.tsx';
import type { WindowArgument } from '../state/viewQuery.ts';
import { earlierLike, leading, type MarkGroup } from './tapeModel.ts';
import { useView } from './useView.ts';
import { aroundMoment } from './windowModel.ts';

const SHOWN = 8;
const LIKE = 3;

interface Props {
  readonly group: MarkGroup;
  readonly left: number;
  readonly all: readonly Mark[];
  /** Of the window. */
  readonly length: number;
  readonly now: number;
  readonly align: (to: { window: WindowArgument; shift: number }) => void;
}

/** What happened, as a mark; opened, it leads to the object and aligns the two windows at its moment. */
export function TapeMark({ group, left, all, length, now, align }: Props) {
  const [open, setOpen] = useState(false);
  const lead = leading(group);
  const words = group.marks.map((mark) => `${formatClock(mark.at, now)} ${mark.title}${placeOf(mark)}`).join('\n');
  const set = (next: { window: WindowArgument; shift: number }) => {
    setOpen(false);
    align(next);
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        title={words}
        aria-label={words}
        className="absolute top-[1px] flex h-[18px] -translate-x-1/2 items-center justify-center text-ink hover:text-petrol"
        style={{ left, width: group.width }}
      >
        <MarkSign mark={lead} />
        {group.marks.length > 1 && <span className="text-[10px] leading-none">{group.marks.length}</span>}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content side="top" sideOffset={6} className="z-30 w-[400px] border border-structure bg-sheet text-sm">
          <ul className="max-h-96 overflow-auto py-1">
            {[...group.marks]
              .reverse()
              .slice(0, SHOWN)
              .map((mark) => (
                <MarkEntry key={`${mark.at} ${mark.title}`} {...{ mark, all, length, now }} align={set} />
              ))}
          </ul>
          {group.marks.length > SHOWN && (
            <p className="border-t border-hair px-3 py-1.5 text-soft">
              {group.marks.length - SHOWN} more; a shorter window parts them.
            </p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** Where it leads: what was configured to what it was, a link to the map around it, anything else to its sheet. */
export function addressOf({ kind, path }: Mark, link: ReturnType<typeof useView>['link']): string {
  if (kind === 'revision') return link('/admin/revisions');
  return kind === 'new link' || kind === 'gone link' ? link('/map', { path }) : link('/usage', { path, sheet: true });
}
const placeOf = ({ path }: Mark): string => (path.length === 0 ? '' : ` (${pathWords(path.slice(0, 3))})`);

function MarkSign({ mark }: { mark: Mark }) {
  return mark.kind === 'raised' && mark.severity ? (
    <Diamond severity={mark.severity} />
  ) : (
    <OwnMark name={mark.kind} size={14} />
  );
}

function MarkEntry({ mark, all, length, now, align }: Omit<Props, 'group' | 'left'> & { mark: Mark }) {
  const { link } = useView();
  const around = aroundMoment(mark.at, length, now);
  const to = addressOf(mark, link);
  return (
    <li className="border-b border-hair px-3 py-1.5 last:border-0">
      <p className="flex items-baseline gap-2">
        <span className="self-center">
          <MarkSign mark={mark} />
        </span>
        <span className="shrink-0 text-soft">{formatClock(mark.at, now, { seconds: true })}</span>
        <Link className="min-w-0 break-words hover:text-petrol" to={to}>
          {mark.title}
        </Link>
      </p>
      <p className="flex flex-wrap gap-x-3 pl-[22px] text-xs">
        {mark.path.length > 0 && <span className="text-soft">{pathWords(mark.path.slice(0, 3))}</span>}
        <button type="button" className="button-plain" onClick={() => align(around)}>
          before and after
        </button>
        {earlierLike(all, mark)
          .slice(0, LIKE)
          .map((other) => (
            <button
              key={other.at}
              type="button"
              className="button-plain"
              title="the time after this one against the time after that one"
              onClick={() => align({ window: around.window, shift: mark.at - other.at })}
            >
              as after {formatClock(other.at, now)}
            </button>
          ))}
      </p>
    </li>
  );
}
