import { useSessionQuery } from '../state/sessionApi.ts';

const MOST = 3;

/** Says who does what this person may not; to administrators nothing. `what`: with its verb, "Connecting clusters is". */
export function ForAdministrators({ what, className = '' }: { what: string; className?: string }) {
  const { data: session } = useSessionQuery();
  if (!session?.person || session.person.role === 'administrator') return null;
  const { administrators } = session;
  const whom =
    administrators.length === 0
      ? 'one of them'
      : `${administrators.slice(0, MOST).join(' or ')}${administrators.length > MOST ? ', or another one' : ''}`;
  return (
    <p className={`text-sm text-soft ${className}`}>
      {what} for administrators: ask {whom}.
    </p>
  );
}
