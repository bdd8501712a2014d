import { ChevronDown, ChevronUp } from 'lucide-react';
import { Popover } from 'radix-ui';
import { COLUMNS } from './tableModel.ts';

/** Which columns, and in which order. */
export function ColumnChooser({ chosen, choose }: { chosen: readonly string[]; choose: (keys: string[]) => void }) {
  const others = COLUMNS.filter(({ key }) => !chosen.includes(key));
  const move = (at: number, by: number) => {
    const next = [...chosen];
    const [one] = next.splice(at, 1);
    next.splice(at + by, 0, one!); // it is one of them
    choose(next);
  };
  const titleOf = (key: string) => COLUMNS.find((column) => column.key === key)?.title ?? key;
  return (
    <Popover.Root>
      <Popover.Trigger className="button-plain">columns</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          className="z-30 max-h-[70vh] w-64 overflow-auto border border-structure bg-sheet py-2 text-sm"
        >
          <ul aria-label="columns shown">
            {chosen.map((key, i) => (
              <li key={key} className="flex items-center gap-2 px-3 py-0.5">
                <label className="flex flex-1 items-center gap-2">
                  <input
                    type="checkbox"
                    checked
                    disabled={key === 'name'}
                    onChange={() => choose(chosen.filter((one) => one !== key))}
                  />
                  {titleOf(key)}
                </label>
                <button
                  type="button"
                  aria-label={`${titleOf(key)} one to the left`}
                  className="p-0.5 hover:text-petrol disabled:text-line"
                  disabled={i === 0}
                  onClick={() => move(i, -1)}
                >
                  <ChevronUp size={14} />
                </button>
                <button
                  type="button"
                  aria-label={`${titleOf(key)} one to the right`}
                  className="p-0.5 hover:text-petrol disabled:text-line"
                  disabled={i === chosen.length - 1}
                  onClick={() => move(i, 1)}
                >
                  <ChevronDown size={14} />
                </button>
              </li>
            ))}
          </ul>
          {others.length > 0 && <p className="mt-1.5 border-t border-hair px-3 pt-1.5 text-xs text-soft">more</p>}
          <ul aria-label="more columns">
            {others.map(({ key, title }) => (
              <li key={key} className="px-3 py-0.5">
                <label className="flex items-center gap-2">
                  <input type="checkbox" checked={false} onChange={() => choose([...chosen, key])} />
                  {title}
                </label>
              </li>
            ))}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
