import { asFailure } from '../state/failure.ts';

interface Props {
  /** Nothing stands there without one. */
  readonly error: unknown;
  readonly className?: string;
  /** Within a line. */
  readonly inline?: boolean;
}

/** Why something did not work, where it was tried. */
export function FailureText({ error, className = '', inline = false }: Props) {
  if (error === undefined) return null;
  const Element = inline ? 'span' : 'p';
  return (
    <Element role="alert" className={`text-critical ${className}`}>
      {asFailure(error).text}
    </Element>
  );
}
