import type { FindAnswer } from '@zetopsis/contract';
import { ranked, readMoment } from '@zetopsis/core/find';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { Command } from 'cmdk';
import { Dialog } from 'radix-ui';
import { useDeferredValue, useRef, useState } from 'react';
import { CutName } from '../drawing/CutName.tsx';
import { isMarkName, OwnMark } from '../drawing/OwnMark.tsx';
import { useFindQuery } from '../state/findApi.ts';
import { chooseLook } from './look.ts';
import { PLACES } from './places.ts';
import { useNow } from './useNow.ts';
import { useView, type ViewState } from './useView.ts';
import { lengthOf } from './windowModel.ts';

const ITEM =
  'flex items-center gap-2.5 px-4 py-1.5 data-[selected=true]:bg-ground data-[selected=true]:text-petrol cursor-pointer';

interface Errand {
  readonly name: string;
  readonly note: string;
  readonly go: () => void;
}

/** Any object, those of the past too, any place, rule or command: by typing a part of its name. */
export function GoTo({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ground/70" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-16 left-1/2 z-40 w-[640px] max-w-[94vw] -translate-x-1/2 border border-ink bg-sheet"
        >
          <Dialog.Title className="sr-only">Go to anything</Dialog.Title>
          <Finder close={close} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Finder({ close }: { close: () => void }) {
  const { view, change } = useView();
  const now = useNow(60_000);
  const [typed, setTyped] = useState('');
  const [picked, setPicked] = useState('');
  /** whether a person moved in the list since the last letter; else what is first is picked, however late it came */
  const moved = useRef(false);
  const asked = useDeferredValue(typed.trim());
  const { data, isFetching, isError } = useFindQuery(asked, { skip: asked === '' });
  const go = (part: Partial<ViewState>, place: string) => {
    close();
    void change(part, { place });
  };
  const errands: Errand[] = [
    ...PLACES.map(({ path, name, question }) => ({ name, note: question, go: () => go({}, path) })),
    ...SOURCES.map(([path, name]) => ({ name, note: 'in Sources', go: () => go({}, path) })),
    {
      name: 'back to now',
      note: 'the window reaches to now',
      go: () => go({ window: { length: lengthOf(view.window) } }, '/usage'),
    },
    ...(['day', 'night', 'system'] as const).map((look) => ({
      name: look === 'system' ? 'day or night as the system has it' : look,
      note: 'how it looks',
      go: () => {
        chooseLook(look);
        close();
      },
    })),
  ];
  const moment = readMoment(typed, now, (...parts) => new Date(...parts).getTime());
  const shown = asked === '' ? errands.slice(0, PLACES.length) : ranked(asked, errands, 5);
  const objects = asked === '' ? [] : (data?.found ?? []);
  const length = lengthOf(view.window);
  const values = [
    ...(moment === null ? [] : ['moment']),
    ...shown.map((errand) => `go ${errand.name}`),
    ...objects.map(keyOf),
  ];
  return (
    <Command
      shouldFilter={false}
      label="go to anything"
      value={values.includes(picked) ? picked : (values[0] ?? '')}
      onValueChange={(next) => moved.current && setPicked(next)}
      onKeyDownCapture={(event) => {
        if (MOVES.has(event.key)) moved.current = true;
      }}
      onPointerMoveCapture={() => {
        moved.current = true;
      }}
    >
      <Command.Input
        autoFocus
        value={typed}
        onValueChange={(next) => {
          moved.current = false;
          setPicked('');
          setTyped(next);
        }}
        className="w-full border-b border-line bg-transparent px-4 py-3 text-lg outline-none"
        placeholder="a name, a place, or a time such as 03:12"
      />
      <Command.List className="max-h-[60vh] overflow-auto py-1.5 text-sm">
        {moment !== null && (
          <Command.Item
            value="moment"
            className={ITEM}
            onSelect={() => go({ window: { from: moment - length, to: moment } }, '/now')}
          >
            <span className="w-4" />
            <b className="font-semibold">look at {formatClock(moment, now)}</b>
            <span className="text-soft">{formatDuration(now - moment)} ago, the whole of it</span>
          </Command.Item>
        )}
        {shown.map((errand) => (
          <Command.Item key={errand.name} value={`go ${errand.name}`} className={ITEM} onSelect={errand.go}>
            <span className="w-4 text-center text-soft">›</span>
            <b className="font-semibold">{errand.name}</b>
            <span className="truncate text-soft">{errand.note}</span>
          </Command.Item>
        ))}
        {objects.map((found) => (
          <Result key={keyOf(found)} found={found} now={now} go={go} length={length} />
        ))}
      </Command.List>
      <p role="status" className="border-t border-hair px-4 py-1.5 text-xs text-soft">
        {asked === ''
          ? 'Type a part of a name: everything that is, and that was. One or two wrong letters do not matter.'
          : isError
            ? 'The search did not answer; it is asked again with the next letter.'
            : data === undefined
              ? 'looking'
              : objects.length === 0
                ? `Nothing of this name among ${data.lookedAt} that you may see.`
                : `${objects.length} of ${data.lookedAt} that you may see${isFetching ? ', looking on' : ''}`}
      </p>
    </Command>
  );
}

const SOURCES = [
  ['/sources/connect', 'connect something'],
  ['/sources/endpoints', 'endpoints'],
  ['/sources/scouts', 'scouts'],
  ['/sources/push', 'push keys'],
  ['/sources/coverage', 'coverage'],
  ['/sources/census', 'series census'],
] as const;

const MOVES: ReadonlySet<string> = new Set(['ArrowUp', 'ArrowDown', 'Home', 'End']);

const keyOf = ({ kind, path, name, where }: FindAnswer['found'][number]): string =>
  `${kind} ${path.join('/')} ${name} ${where}`.trim();

function Result({
  found,
  now,
  go,
  length,
}: {
  found: FindAnswer['found'][number];
  now: number;
  go: (part: Partial<ViewState>, place: string) => void;
  length: number;
}) {
  const { kind, name, path, where, goneAt, key, span } = found;
  const choose = () => {
    if (kind === 'rule') go({}, `/rules/${key ?? ''}`);
    else if (kind === 'endpoint') go({}, '/sources/endpoints');
    else if (span) go({ path: [...path], clusters: null, window: { from: span.from, to: span.to ?? now } }, '/usage');
    else
      go(
        {
          path: [...path],
          sheet: true,
          clusters: null,
          // what is gone is looked at when it was there
          ...(goneAt === null ? {} : { window: { from: goneAt - length, to: goneAt - 1 } }),
        },
        '/usage',
      );
  };
  return (
    <Command.Item value={keyOf(found)} className={ITEM} onSelect={choose}>
      <OwnMark name={isMarkName(kind) ? kind : 'others'} size={15} />
      <CutName name={name} className={kind === 'pod' ? 'font-mono text-xs' : 'font-semibold'} />
      <span className="shrink-0 text-soft">{kind}</span>
      <span className="ml-auto shrink-0 pl-3 text-soft">
        {where}
        {goneAt !== null && <b className="text-ink"> gone {formatDuration(now - goneAt)} ago</b>}
      </span>
    </Command.Item>
  );
}
