import { asFailure } from '../state/failure.ts';

/** What a refused form says when no field is to blame; what a field is to blame for stands at the field. */
export function FormFailure({ error }: { error: unknown }) {
  if (error === undefined) return null;
  const failure = asFailure(error);
  if (failure.fields.length > 0) return null;
  return (
    <p role="alert" className="mb-2 text-critical">
      {failure.text}
    </p>
  );
}
