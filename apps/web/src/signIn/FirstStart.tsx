import { zodResolver } from '@hookform/resolvers/zod';
import { FirstPerson } from '@zetopsis/contract';
import { useForm } from 'react-hook-form';
import { Field, problemOf } from '../forms/Field.tsx';
import { FormFailure } from '../forms/FormFailure.tsx';
import { PasswordField } from '../forms/PasswordField.tsx';
import { asFailure } from '../state/failure.ts';
import { useMakeFirstMutation } from '../state/sessionApi.ts';
import { EntrySheet } from './EntrySheet.tsx';

export function FirstStart() {
  const [makeFirst, { isLoading, error }] = useMakeFirstMutation();
  const { register, handleSubmit, formState } = useForm({
    resolver: zodResolver(FirstPerson),
    defaultValues: { code: '', name: '', password: '' },
  });
  const failure = error ? asFailure(error) : null;
  return (
    <EntrySheet
      title="Make the administrator"
      beside={
        <p className="text-sm text-soft">
          Nobody has an account here yet. The server printed a one-time code when it started; whoever can read that may
          make the first account. A new code is printed at every start until then.
        </p>
      }
    >
      <form onSubmit={handleSubmit((values) => void makeFirst(values))} noValidate>
        <Field id="code" label="One-time code" error={formState.errors.code?.message ?? problemOf(failure, 'code')}>
          <input id="code" className="field font-mono" autoComplete="one-time-code" autoFocus {...register('code')} />
        </Field>
        <Field id="name" label="Name" error={formState.errors.name?.message}>
          <input id="name" className="field" autoComplete="username" {...register('name')} />
        </Field>
        <PasswordField
          id="password"
          label="Password"
          error={formState.errors.password?.message}
          autoComplete="new-password"
          {...register('password')}
        />
        <FormFailure error={error} />
        <button type="submit" className="button" disabled={isLoading}>
          Make the account
        </button>
      </form>
    </EntrySheet>
  );
}
