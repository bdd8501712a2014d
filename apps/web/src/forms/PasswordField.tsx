import type { ComponentProps } from 'react';
import { Field } from './Field.tsx';

interface Props extends Omit<ComponentProps<'input'>, 'id' | 'type' | 'className'> {
  readonly id: string;
  readonly label: string;
  readonly error?: string | undefined;
  /** What a password keeper may fill in. */
  readonly autoComplete: 'current-password' | 'new-password' | 'off';
}

/** A secret that is typed and not shown. */
export function PasswordField({ id, label, error, ...input }: Props) {
  return (
    <Field id={id} label={label} error={error}>
      <input id={id} type="password" className="field" {...input} />
    </Field>
  );
}
