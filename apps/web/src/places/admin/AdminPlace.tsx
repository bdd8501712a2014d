import { useParams } from 'react-router';
import { ForAdministrators } from '../../frame/ForAdministrators.tsx';
import { type Part, Parts } from '../../frame/Parts.tsx';
import { useSessionQuery } from '../../state/sessionApi.ts';
import { Audit } from './Audit.tsx';
import { ConfigurationFile } from './ConfigurationFile.tsx';
import { Criticality } from './Criticality.tsx';
import { Grants } from './Grants.tsx';
import { People } from './People.tsx';
import { Retention } from './Retention.tsx';
import { Revisions } from './Revisions.tsx';
import { Teams } from './Teams.tsx';
import { Yours } from './Yours.tsx';

const YOURS: Part = { path: 'yours', name: 'Yours', view: <Yours /> };
const PARTS: readonly Part[] = [
  { path: 'people', name: 'People', view: <People /> },
  { path: 'teams', name: 'Teams', view: <Teams /> },
  { path: 'grants', name: 'Grants', view: <Grants /> },
  { path: 'criticality', name: 'Criticality', view: <Criticality /> },
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
  if (!session?.person) return null;
  const parts = session.person.role === 'administrator' ? PARTS : [YOURS];
  const shown = parts.find(({ path }) => path === part) ?? parts[0]!; // there is always one's own
  return (
    <div className="flex h-full min-h-0 flex-col">
      <Parts place="Admin" parts={parts} shown={shown}>
        <ForAdministrators className="ml-auto pb-1.5" what="People, grants, revisions and the audit log are" />
      </Parts>
      <div className="min-h-0 flex-1 overflow-auto px-5 py-4">{shown.view}</div>
    </div>
  );
}
