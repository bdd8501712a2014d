import { Command } from 'cmdk';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { Diamond } from '../drawing/Diamond.tsx';
import { partName } from '../drawing/names.ts';
import { useUsageQuery } from '../state/placesApi.ts';
import { useView } from './useView.ts';

const LEVELS = [
  { one: 'cluster', any: 'all clusters' },
  { one: 'namespace', any: 'any namespace' },
  { one: 'workload', any: 'any workload' },
  { one: 'pod', any: 'any pod' },
  { one: 'container', any: 'any container' },
] as const;

/** The scope as an editable path: every step is a menu over what is there and was there in the window. */
export function ScopeLine() {
  const { view } = useView();
  const steps = LEVELS.slice(0, Math.min(LEVELS.length, view.path.length + 1));
  return (
    <div
      className="flex items-center gap-1.5 overflow-hidden border-b border-line px-4 text-sm"
      role="navigation"
      aria-label="looking at"
    >
      <span className="mr-1 text-xs text-soft">looking at</span>
      {steps.map((level, index) => (
        <span key={level.one} className="flex min-w-0 items-center gap-1.5">
          {index > 0 && (
            <span className="text-soft" aria-hidden="true">
              ›
            </span>
          )}
          <ScopeStep index={index} />
        </span>
      ))}
    </div>
  );
}

function ScopeStep({ index }: { index: number }) {
  const { view, change } = useView();
  const [open, setOpen] = useState(false);
  const level = LEVELS[index]!; // steps are cut to the levels there are
  const chosen = view.path[index];
  const choose = (part: string | null) => {
    setOpen(false);
    void change({ path: part === null ? view.path.slice(0, index) : [...view.path.slice(0, index), part] });
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        className="max-w-72 truncate border-b border-dashed border-structure px-1.5 py-0.5 hover:text-petrol"
        aria-label={`${level.one}: ${chosen === undefined ? level.any : partName(chosen, index)}`}
      >
        {chosen === undefined ? (
          <span className={index === 0 ? '' : 'text-soft'}>{level.any}</span>
        ) : (
          <b className="font-semibold">{partName(chosen, index)}</b>
        )}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="start" sideOffset={4} className="w-80 border border-structure bg-sheet">
          <StepChoices index={index} choose={choose} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function StepChoices({ index, choose }: { index: number; choose: (part: string | null) => void }) {
  const { view } = useView();
  const { data, isError } = useUsageQuery({ path: view.path.slice(0, index), window: view.window });
  const level = LEVELS[index]!;
  const rows = data?.columns[index]?.rows ?? [];
  return (
    <Command label={`choose a ${level.one}`} className="text-sm">
      <Command.Input
        autoFocus
        className="w-full border-b border-line bg-transparent px-3 py-2 outline-none"
        placeholder={`type a ${level.one}’s name`}
      />
      <Command.List className="max-h-80 overflow-auto py-1">
        <Command.Empty className="px-3 py-2 text-soft">
          {isError
            ? 'The list could not be read.'
            : data
              ? 'Nothing of this name was there in this window.'
              : 'loading'}
        </Command.Empty>
        <Command.Item
          value={level.any}
          className="px-3 py-1.5 text-soft data-[selected=true]:bg-ground data-[selected=true]:text-petrol"
          onSelect={() => choose(null)}
        >
          {level.any}
        </Command.Item>
        {rows.map((row) => (
          <Command.Item
            key={row.key}
            value={row.key}
            className="flex items-center gap-2 px-3 py-1.5 data-[selected=true]:bg-ground data-[selected=true]:text-petrol"
            onSelect={() => choose(row.key)}
          >
            {row.severity && <Diamond severity={row.severity} size={9} />}
            <span className={index >= 3 ? 'truncate font-mono text-xs' : 'truncate'}>{row.name}</span>
            {!row.present && <span className="ml-auto text-xs text-soft">gone</span>}
          </Command.Item>
        ))}
      </Command.List>
    </Command>
  );
}
