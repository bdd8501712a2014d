import { Popover } from 'radix-ui';
import { useState } from 'react';
import { Link, useLocation } from 'react-router';
import { FailureText } from '../../forms/FailureText.tsx';
import { useKeepViewMutation, useRemoveViewMutation, useViewsQuery } from '../../state/viewsApi.ts';

/** Views that one kept, and those of one's teams; what is on screen can be kept as one. */
export function SavedViews() {
  const { pathname, search } = useLocation();
  const [open, setOpen] = useState(false);
  const { data, error } = useViewsQuery(undefined, { skip: !open });
  const [keep, keeping] = useKeepViewMutation();
  const [remove] = useRemoveViewMutation();
  const [name, setName] = useState('');
  const [team, setTeam] = useState('');
  const failure = keeping.error ?? error;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="button-plain">views</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="end" sideOffset={6} className="z-30 w-80 border border-structure bg-sheet p-3 text-sm">
          {data?.views.length === 0 && <p className="mb-2 text-soft">No view is kept yet.</p>}
          <ul className="mb-2 max-h-64 overflow-auto">
            {data?.views.map((view) => (
              <li key={view.id} className="flex items-baseline gap-2 border-b border-hair py-1">
                <Link
                  className="min-w-0 truncate font-semibold hover:text-petrol"
                  to={view.address}
                  onClick={() => setOpen(false)}
                >
                  {view.name}
                </Link>
                <span className="shrink-0 text-xs text-soft">
                  {view.team === null
                    ? 'yours alone'
                    : `${data.teams.find(({ key }) => key === view.team)?.name ?? view.team}, by ${view.by}`}
                </span>
                {view.own && (
                  <button
                    type="button"
                    className="button-plain ml-auto text-xs"
                    aria-label={`remove view ${view.name}`}
                    onClick={() => void remove(view.id)}
                  >
                    remove
                  </button>
                )}
              </li>
            ))}
          </ul>
          <form
            className="flex flex-col gap-1.5"
            onSubmit={(event) => {
              event.preventDefault();
              void keep({ name, address: `${pathname}${search}`, team: team === '' ? null : team }).then(
                (done) => !done.error && setName(''),
              );
            }}
          >
            <label className="text-xs text-soft" htmlFor="view-name">
              keep what is on screen as
            </label>
            <input id="view-name" className="field" value={name} onChange={({ target }) => setName(target.value)} />
            <div className="flex items-center gap-2">
              <select
                aria-label="for whom"
                className="min-w-0 flex-1 bg-transparent"
                value={team}
                onChange={({ target }) => setTeam(target.value)}
              >
                <option value="">for me</option>
                {data?.teams.map(({ key, name: title }) => (
                  <option key={key} value={key}>
                    for {title}
                  </option>
                ))}
              </select>
              <button type="submit" className="button" disabled={name.trim() === '' || keeping.isLoading}>
                keep
              </button>
            </div>
            <FailureText error={failure} />
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
