import type { TapeAnswer } from '@zetopsis/contract';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { pathWords } from '../drawing/names.ts';
import { FailureText } from '../forms/FailureText.tsx';
import { useEndStretchMutation, useRemoveStretchMutation, useStretchesQuery } from '../state/stretchesApi.ts';
import type { WindowArgument } from '../state/viewQuery.ts';
import { StretchForm } from './StretchForm.tsx';
import { draftOfStretch, type StretchDraft } from './stretchDraft.ts';
import { type Scale, xOf } from './tapeModel.ts';

type Stretch = TapeAnswer['stretches'][number];
const COLOURS: Readonly<Record<Stretch['kind'], string>> = {
  load: 'bg-structure',
  release: 'bg-petrol',
  experiment: 'bg-[var(--fill-2)]',
  trouble: 'bg-critical',
  maintenance: 'bg-[repeating-linear-gradient(90deg,var(--structure)_0_4px,transparent_4px_7px)]',
};
/** Narrower than this nobody hits it. */
const NARROWEST = 8;

/** A stretch of time that somebody marked, as a bar; opened, it leads into it. */
export function TapeStretch({
  stretch,
  scale,
  offset,
  now,
  look,
}: {
  stretch: Stretch;
  scale: Scale;
  offset: number;
  now: number;
  look: (window: WindowArgument, shift: number | null) => void;
}) {
  const [open, setOpen] = useState(false);
  const [changing, setChanging] = useState<StretchDraft | null>(null);
  const { kind, title, from, to } = stretch;
  const end = to ?? now;
  const a = Math.max(0, Math.min(scale.width, xOf(scale, from)));
  const b = Math.max(0, Math.min(scale.width, xOf(scale, end)));
  const width = Math.max(NARROWEST, b - a);
  const words = `${kind}: ${title}, ${formatClock(from, now)} ${to === null ? 'and goes on' : `for ${formatDuration(to - from)}`}`;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        title={words}
        aria-label={words}
        className="absolute top-[19px] flex h-[9px] items-start"
        style={{ left: offset + Math.min(a, scale.width - NARROWEST), width }}
      >
        <span className={clsx('h-[5px] w-full', COLOURS[kind])} />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          sideOffset={6}
          className="z-30 w-[360px] border border-structure bg-sheet px-3 py-2 text-sm"
        >
          <Opened stretch={stretch} now={now} look={look} close={() => setOpen(false)} change={setChanging} />
        </Popover.Content>
      </Popover.Portal>
      <StretchForm first={changing} changed={stretch.key} close={() => setChanging(null)} />
    </Popover.Root>
  );
}

function Opened({
  stretch: { key, kind, title, path, from, to, mayChange },
  now,
  look,
  close,
  change,
}: {
  stretch: Stretch;
  now: number;
  look: (window: WindowArgument, shift: number | null) => void;
  close: () => void;
  change: (draft: StretchDraft) => void;
}) {
  const { data } = useStretchesQuery();
  const kept = data?.stretches.find((one) => one.key === key);
  const [end, ending] = useEndStretchMutation();
  const [remove, removing] = useRemoveStretchMutation();
  const length = (to ?? now) - from;
  const go = (window: WindowArgument, shift: number | null) => {
    close();
    look(window, shift);
  };
  return (
    <>
      <p>
        <b>{title}</b> <span className="text-soft">{kind}</span>
      </p>
      <p className="text-soft">
        {formatClock(from, now)} {to === null ? 'and goes on' : `to ${formatClock(to, now)}`} ·{' '}
        {path.length === 0 ? 'everywhere' : pathWords(path)}
        {kept?.owner == null ? '' : ` · ${kept.owner}`}
      </p>
      {kept !== undefined && kept.document.note !== '' && <p className="whitespace-pre-wrap">{kept.document.note}</p>}
      <p className="mt-1 flex flex-wrap gap-x-3">
        <button type="button" className="button-plain" onClick={() => go({ from, to: to ?? now }, null)}>
          look at it
        </button>
        <button type="button" className="button-plain" onClick={() => go({ from, to: to ?? now }, length)}>
          against the time before
        </button>
        {mayChange && to === null && (
          <button type="button" className="button-plain" disabled={ending.isLoading} onClick={() => void end(key)}>
            it ends now
          </button>
        )}
        {mayChange && kept && (
          <button
            type="button"
            className="button-plain"
            onClick={() => {
              close();
              change(draftOfStretch(kept.document));
            }}
          >
            change the mark
          </button>
        )}
        {mayChange && (
          <button type="button" className="button-plain" disabled={removing.isLoading} onClick={() => void remove(key)}>
            remove the mark
          </button>
        )}
      </p>
      <FailureText error={ending.error ?? removing.error} />
    </>
  );
}
