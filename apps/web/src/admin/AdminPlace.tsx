import { useSessionQuery } from '../state/sessionApi.ts';
import { Audit } from './Audit.tsx';
import { OwnPassword } from './OwnPassword.tsx';
import { People } from './People.tsx';

/** Who may do what, who did what? */
export function AdminPlace() {
  const { data: session } = useSessionQuery();
  if (!session?.person) return null;
  const administrator = session.person.role === 'administrator';
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_minmax(380px,34%)]">
      <div className="overflow-auto px-5 py-4">
        {administrator ? (
          <Audit />
        ) : (
          <p className="max-w-xl text-soft">
            The audit log and the list of people are for administrators: ask one of them. Your own password can be
            changed here.
          </p>
        )}
      </div>
      <div className="overflow-auto border-l border-line bg-sheet px-5 py-4">
        {administrator && <People self={session.person.id} />}
        <OwnPassword />
      </div>
    </div>
  );
}
