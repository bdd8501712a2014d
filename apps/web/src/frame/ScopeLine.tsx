import { type By, readTrait } from '@zetopsis/contract';
import { Command } from 'cmdk';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { CutName } from '../drawing/CutName.tsx';
import { Diamond } from '../drawing/Diamond.tsx';
import { byOf, isThing, namesIn } from '../drawing/names.ts';
import { isNobodys } from '../drawing/rows.ts';
import { useSourcesQuery } from '../state/endpointsApi.ts';
import { useSessionQuery } from '../state/sessionApi.ts';
import { useUsageQuery } from '../state/usageApi.ts';
import { queried, useView } from './useView.ts';
import { ownsSomething } from './whose.ts';

interface Level {
  readonly one: string;
  readonly any: string;
}
const CLUSTER: Level = { one: 'cluster', any: 'all clusters' };
const POD: Level = { one: 'pod', any: 'any pod' };
const CONTAINER: Level = { one: 'container', any: 'any container' };
const BY_NAMESPACE: readonly Level[] = [
  CLUSTER,
  { one: 'namespace', any: 'any namespace' },
  { one: 'workload', any: 'any workload' },
  POD,
  CONTAINER,
];
const BY_TEAM: readonly Level[] = [
  CLUSTER,
  { one: 'team', any: 'any team' },
  { one: 'namespace', any: 'any namespace' },
];
const BY_NODE: readonly Level[] = [CLUSTER, { one: 'node', any: 'any node' }, POD, CONTAINER];

/** Which levels a path has: over namespaces, or over nodes. */
const levelsOf = (path: readonly string[], by: By): readonly Level[] =>
  ({ team: BY_TEAM, node: BY_NODE, namespace: BY_NAMESPACE })[byOf({ path, by })];

/** The scope as an editable path: every step is a menu over what is there and was there in the window. */
export function ScopeLine() {
  const { view } = useView();
  const levels = levelsOf(view.path, view.by);
  const steps = levels.slice(0, view.path.length + (isThing(view.path) ? 0 : 1));
  return (
    <div
      className="flex min-w-0 flex-1 items-center gap-1.5 overflow-hidden px-4 text-sm"
      role="navigation"
      aria-label="looking at"
    >
      <span className="mr-1 text-xs text-soft">looking at</span>
      <Whose />
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

/** For who is in a team: what it owns, or everything one may see. */
function Whose() {
  const { view, change } = useView();
  const { data: session } = useSessionQuery();
  if (!ownsSomething(session)) return null;
  return (
    <select
      aria-label="whose"
      className="[field-sizing:content] border-b border-dashed border-structure bg-transparent py-0.5 hover:text-petrol"
      value={view.whose}
      onChange={(event) => void change({ whose: event.target.value === 'mine' ? 'mine' : 'all', path: [] })}
    >
      <option value="mine">my teams’</option>
      <option value="all">all I may see</option>
    </select>
  );
}

function ScopeStep({ index }: { index: number }) {
  const { view, change } = useView();
  const [open, setOpen] = useState(false);
  const level = levelsOf(view.path, view.by)[index]!; // steps are cut to the levels there are
  const chosen = view.path[index];
  const name = namesIn(view.path)[index];
  const trait = index === 0 && chosen === undefined ? view.clusters : null;
  const read = trait === null ? null : readTrait(trait);
  const traitWords = read && `${read.trait} ${read.is}`;
  const choose = (part: string | null) => {
    setOpen(false);
    void change({
      path: part === null ? view.path.slice(0, index) : [...view.path.slice(0, index), part],
      ...(index === 0 ? { clusters: null } : {}),
    });
  };
  const chooseTrait = (clusters: string) => {
    setOpen(false);
    void change({ path: [], clusters });
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        className="max-w-72 truncate border-b border-dashed border-structure px-1.5 py-0.5 hover:text-petrol"
        aria-label={`${level.one}: ${chosen === undefined ? (traitWords ?? level.any) : name}`}
      >
        {trait !== null ? (
          <span>
            clusters of <b className="font-semibold">{traitWords}</b>
          </span>
        ) : chosen === undefined ? (
          <span className={index === 0 ? '' : 'text-soft'}>{level.any}</span>
        ) : (
          <b className="font-semibold">{name}</b>
        )}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="start" sideOffset={4} className="z-30 w-80 border border-structure bg-sheet">
          <StepChoices index={index} choose={choose} chooseTrait={chooseTrait} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** "environment:production" and the like, of the clusters one may see. */
function useTraits(): { key: string; trait: string; is: string }[] {
  const { data } = useSourcesQuery();
  const traits = (data?.connections ?? []).flatMap((cluster) =>
    (['environment', 'region', 'flavour'] as const).flatMap((trait) =>
      cluster[trait] === '' ? [] : [{ key: `${trait}:${cluster[trait]}`, trait, is: cluster[trait] }],
    ),
  );
  return [...new Map(traits.map((one) => [one.key, one])).values()].sort((a, b) => a.key.localeCompare(b.key));
}

function StepChoices({
  index,
  choose,
  chooseTrait,
}: {
  index: number;
  choose: (part: string | null) => void;
  chooseTrait: (trait: string) => void;
}) {
  const { view } = useView();
  const by = byOf(view);
  const { data, isError } = useUsageQuery({
    ...queried(view),
    path: view.path.slice(0, index),
    clusters: index === 0 ? null : view.clusters,
    shift: null,
    by,
  });
  const level = levelsOf(view.path, view.by)[index]!;
  const traits = useTraits();
  const rows = (data?.columns[index]?.rows ?? []).filter((row) => !isNobodys(row));
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
        {index === 0 &&
          traits.map(({ key, trait, is }) => (
            <Command.Item
              key={key}
              value={key}
              className="px-3 py-1.5 data-[selected=true]:bg-ground data-[selected=true]:text-petrol"
              onSelect={() => chooseTrait(key)}
            >
              <span className="text-soft">{trait}</span> {is}
            </Command.Item>
          ))}
        {rows.map((row) => (
          <Command.Item
            key={row.key}
            value={row.key}
            className="flex items-center gap-2 px-3 py-1.5 data-[selected=true]:bg-ground data-[selected=true]:text-petrol"
            onSelect={() => choose(row.key)}
          >
            {row.severity && <Diamond severity={row.severity} size={9} />}
            <CutName name={row.name} {...(index >= 3 ? { className: 'font-mono text-xs' } : {})} />
            {!row.present && <span className="ml-auto text-xs text-soft">gone</span>}
          </Command.Item>
        ))}
      </Command.List>
    </Command>
  );
}
