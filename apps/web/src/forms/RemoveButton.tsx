import { Confirm } from '../drawing/Confirm.tsx';
import { asFailure } from '../state/failure.ts';
import { FormFailure } from './FormFailure.tsx';

/** Removes something that is kept, after asking once more. `remove` answers whether it failed. */
export function RemoveButton({
  title,
  text,
  remove,
  error,
  busy,
  removed,
}: {
  title: string;
  text: string;
  remove: () => Promise<{ error?: unknown }>;
  error: unknown;
  busy: boolean;
  removed: () => void;
}) {
  return (
    <Confirm
      trigger="remove"
      triggerClass="button-plain"
      title={title}
      text={
        <>
          {text}
          <FormFailure error={error && { ...asFailure(error), fields: [] }} />
        </>
      }
      keep="Keep it"
    >
      {(close) => (
        <button
          type="button"
          className="button"
          disabled={busy}
          onClick={() =>
            void remove().then((done) => {
              if (done.error) return;
              close();
              removed();
            })
          }
        >
          Remove
        </button>
      )}
    </Confirm>
  );
}
