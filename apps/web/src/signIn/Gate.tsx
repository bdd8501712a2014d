import type { ReactNode } from 'react';
import { FailureNote } from '../drawing/StateNote.tsx';
import { useSessionQuery } from '../state/sessionApi.ts';
import { FirstStart } from './FirstStart.tsx';
import { SignIn } from './SignIn.tsx';

/** Lets in who has signed in; the address stays, so that a link from a message leads where it points after signing in. */
export function Gate({ children }: { children: ReactNode }) {
  const { data, error, refetch } = useSessionQuery();
  if (!data) {
    if (!error) return <p className="p-6 text-soft">loading</p>;
    return (
      <div className="p-6">
        <FailureNote error={error} retry={() => void refetch()} />
      </div>
    );
  }
  if (data.person) return children;
  return data.firstStart ? <FirstStart /> : <SignIn session={data} />;
}
