import { zodResolver } from '@hookform/resolvers/zod';
import { OwnPassword as Schema } from '@zetopsis/contract';
import { useForm } from 'react-hook-form';
import { problemOf } from '../../forms/Field.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { PasswordField } from '../../forms/PasswordField.tsx';
import { asFailure } from '../../state/failure.ts';
import { useChangeOwnPasswordMutation, useEndSessionsMutation } from '../../state/peopleApi.ts';

export function OwnPassword() {
  const [change, { error, isLoading, isSuccess }] = useChangeOwnPasswordMutation();
  const [endOthers, ending] = useEndSessionsMutation();
  const { register, handleSubmit, formState, reset } = useForm({
    resolver: zodResolver(Schema),
    defaultValues: { old: '', password: '' },
  });
  const failure = error ? asFailure(error) : null;
  const submit = handleSubmit(async (values) => {
    const done = await change(values);
    if (!done.error) reset();
  });
  return (
    <section aria-label="your password" className="max-w-sm">
      <h2 className="section-title mb-2">Your password</h2>
      <form onSubmit={(event) => void submit(event)} noValidate>
        <PasswordField
          id="old-password"
          label="Present password"
          error={formState.errors.old?.message ?? problemOf(failure, 'old')}
          autoComplete="current-password"
          {...register('old')}
        />
        <PasswordField
          id="new-password"
          label="New password"
          error={formState.errors.password?.message}
          autoComplete="new-password"
          {...register('password')}
        />
        <FormFailure error={error} />
        <button type="submit" className="button" disabled={isLoading}>
          Change it
        </button>
        {isSuccess && (
          <span role="status" className="ml-3 text-sm">
            changed; you are signed out everywhere else
          </span>
        )}
      </form>
      <p className="mt-4">
        <button type="button" className="button" onClick={() => void endOthers('own')} disabled={ending.isLoading}>
          Sign out everywhere else
        </button>
        {ending.isSuccess && (
          <span role="status" className="ml-3 text-sm">
            signed out everywhere else
          </span>
        )}
      </p>
      <FormFailure error={ending.error} />
    </section>
  );
}
