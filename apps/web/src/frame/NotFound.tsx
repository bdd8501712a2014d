import { Link, useRouteError } from 'react-router';
import { StateNote } from '../drawing/StateNote.tsx';

export function NotFound() {
  return (
    <div className="p-5">
      <StateNote title="There is no such place">
        <Link className="button-plain" to="/now">
          go to Now
        </Link>
      </StateNote>
    </div>
  );
}

/** A part of the page failed to load or to draw: say so, and offer the way out. */
export function PlaceFailure() {
  const error = useRouteError();
  return (
    <div className="p-5" role="alert">
      <StateNote title="This page could not be drawn">
        <p>{error instanceof Error ? error.message : 'A part of it did not arrive.'}</p>
        <button type="button" className="button" onClick={() => window.location.reload()}>
          load it again
        </button>
      </StateNote>
    </div>
  );
}
