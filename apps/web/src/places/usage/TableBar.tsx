import { TableLevel as TableLevels } from '@zetopsis/contract';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { type TableFilter, useView } from '../../frame/useView.ts';
import { LEVEL_WORDS } from './columnModel.ts';

const MOST_BESIDE = 4;
type Level = (typeof TableLevels.options)[number];

/** Which rows there are, and which of them are shown. */
export function TableBar({
  level,
  chooseLevel,
  find,
  setFind,
  filter,
  setFilter,
  owners,
  children,
}: {
  level: Level;
  chooseLevel: (level: Level) => void;
  find: string;
  setFind: (find: string) => void;
  filter: TableFilter;
  setFilter: (filter: TableFilter) => void;
  owners: readonly string[];
  children: ReactNode;
}) {
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5 border-b border-line px-4 py-2 text-sm">
      <label className="flex items-center gap-1.5">
        <span className="text-soft">rows</span>
        <select
          className="bg-transparent font-semibold"
          value={level}
          onChange={({ target }) => {
            const chosen = TableLevels.safeParse(target.value);
            if (chosen.success) chooseLevel(chosen.data);
          }}
        >
          {TableLevels.options.map((one) => (
            <option key={one} value={one}>
              {LEVEL_WORDS[one].toLowerCase()}
            </option>
          ))}
        </select>
      </label>
      <input
        className="field w-44 py-0.5"
        aria-label="a part of the name or the place"
        placeholder="name or place"
        value={find}
        onChange={({ target }) => setFind(target.value)}
      />
      <input
        className="field w-32 py-0.5"
        aria-label="label, as key=value"
        placeholder="label=value"
        value={filter.label}
        onChange={({ target }) => setFilter({ ...filter, label: target.value })}
      />
      <select
        className="bg-transparent"
        aria-label="owner"
        value={filter.owner}
        onChange={({ target }) => setFilter({ ...filter, owner: target.value })}
      >
        <option value="">every owner</option>
        {owners.map((owner) => (
          <option key={owner}>{owner}</option>
        ))}
      </select>
      <select
        className="bg-transparent"
        aria-label="state"
        value={filter.state}
        onChange={({ target }) =>
          setFilter({
            ...filter,
            state: target.value === 'found' ? 'found' : target.value === 'calm' ? 'calm' : 'all',
          })
        }
      >
        <option value="all">every state</option>
        <option value="found">with findings</option>
        <option value="calm">without</option>
      </select>
      <span className="ml-auto flex items-center gap-3">{children}</span>
    </div>
  );
}

/** What can be done with the rows that are marked. */
export function MarkedBar({
  marked,
  paths,
  only,
  setOnly,
  none,
}: {
  marked: number;
  paths: readonly string[][];
  only: boolean;
  setOnly: (only: boolean) => void;
  none: () => void;
}) {
  const { link } = useView();
  return (
    <div role="status" className="flex items-center gap-4 border-b border-line bg-sheet px-4 py-1.5 text-sm">
      <b>{marked} marked</b>
      <label className="flex items-center gap-1.5">
        <input type="checkbox" checked={only} onChange={({ target }) => setOnly(target.checked)} />
        only these
      </label>
      {paths.length > 1 && paths.length <= MOST_BESIDE && (
        <Link className="button-plain" to={link('/usage', { beside: paths, show: 'columns' })}>
          side by side
        </Link>
      )}
      {paths.length > MOST_BESIDE && <span className="text-soft">up to {MOST_BESIDE} can be put side by side</span>}
      <button type="button" className="button-plain" onClick={none}>
        mark none
      </button>
    </div>
  );
}
