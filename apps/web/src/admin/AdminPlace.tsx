import { clsx } from 'clsx';
import type { ReactNode } from 'react';
import { NavLink, useParams } from 'react-router';
import { useView } from '../frame/useView.ts';
import { useSessionQuery } from '../state/sessionApi.ts';
import { Audit } from './Audit.tsx';
import { ConfigurationFile } from './ConfigurationFile.tsx';
import { Grants } from './Grants.tsx';
import { People } from './People.tsx';
import { Retention } from './Retention.tsx';
import { Revisions } from './Revisions.tsx';
import { Teams } from './Teams.tsx';
import { Yours } from './Yours.tsx';

interface Part {
  readonly path: string;
  readonly name: string;
  readonly view: ReactNode;
}
const YOURS: Part = { path: 'yours', name: 'Yours', view: <Yours /> };
const PARTS: readonly Part[] = [
  { path: 'people', name: 'People', view: <People /> },
  { path: 'teams', name: 'Teams', view: <Teams /> },
  { path: 'grants', name: 'Grants', view: <Grants /> },
  { path: 'revisions', name: 'Revisions', view: <Revisions /> },
  { path: 'file', name: 'Configuration as a file', view: <ConfigurationFile /> },
  { path: 'audit', name: 'Audit', view: <Audit /> },
  { path: 'retention', name: 'Retention and limits', view: <Retention /> },
  YOURS,
];

/** Who may do what, who did what? */
export function AdminPlace() {
  const { data: session } = useSessionQuery();
  const { part } = useParams();
  const { link } = useView();
  if (!session?.person) return null;
  const parts = session.person.role === 'administrator' ? PARTS : [YOURS];
  const shown = parts.find(({ path }) => path === part) ?? parts[0]!; // there is always one's own
  return (
    <div className="flex h-full min-h-0 flex-col">
      <nav aria-label="parts of Admin" className="flex gap-5 border-b border-line px-5 pt-2 text-sm">
        {parts.map(({ path, name }) => (
          <NavLink
            key={path}
            to={link(`/admin/${path}`)}
            aria-current={path === shown.path ? 'page' : undefined}
            className={clsx(
              'border-b-2 pb-1.5',
              path === shown.path ? 'border-ink font-bold' : 'border-transparent text-soft hover:text-ink',
            )}
          >
            {name}
          </NavLink>
        ))}
        {parts.length === 1 && (
          <p className="ml-auto pb-1.5 text-soft">
            People, grants, revisions and the audit log are for administrators: ask one of them.
          </p>
        )}
      </nav>
      <div className="min-h-0 flex-1 overflow-auto px-5 py-4">{shown.view}</div>
    </div>
  );
}
