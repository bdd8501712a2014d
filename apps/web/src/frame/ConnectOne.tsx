import { Link } from 'react-router';
import { useSessionQuery } from '../state/sessionApi.ts';
import { ForAdministrators } from './ForAdministrators.tsx';
import { useView } from './useView.ts';

/** Where no cluster is connected yet: what to do, or whom to ask. */
export function ConnectOne() {
  const { link } = useView();
  const { data: session } = useSessionQuery();
  return session?.person?.role === 'administrator' ? (
    <Link className="button" to={link('/sources')}>
      connect a cluster
    </Link>
  ) : (
    <ForAdministrators what="Connecting clusters is" />
  );
}
