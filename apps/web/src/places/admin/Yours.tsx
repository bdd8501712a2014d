import { ForAdministrators } from '../../frame/ForAdministrators.tsx';
import { useSessionQuery } from '../../state/sessionApi.ts';
import { OwnPassword } from './OwnPassword.tsx';
import { Permits } from './Permits.tsx';
import { Tokens } from './Tokens.tsx';

/** What one may see oneself, and why; one's tokens and password. */
export function Yours() {
  const { data: session } = useSessionQuery();
  if (!session) return null;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-8">
      <section aria-label="what you see, and why">
        <h2 className="section-title mb-2">What you see, and why</h2>
        <p className="mb-2 text-sm">
          <span className="text-soft">in </span>
          {session.teams.length === 0 ? 'no team' : session.teams.join(', ')}
        </p>
        <Permits permits={session.permits} />
        <p className="mt-2 text-sm text-soft">On shared nodes others are one share.</p>
        <ForAdministrators what="Granting more is" />
      </section>
      <div className="space-y-8">
        <Tokens />
        <OwnPassword />
      </div>
    </div>
  );
}
