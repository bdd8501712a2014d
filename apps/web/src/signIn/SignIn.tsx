import { zodResolver } from '@hookform/resolvers/zod';
import { type SessionAnswer, SignIn as SignInSchema } from '@zetopsis/contract';
import { useForm } from 'react-hook-form';
import { FailureText } from '../forms/FailureText.tsx';
import { Field } from '../forms/Field.tsx';
import { PasswordField } from '../forms/PasswordField.tsx';
import { useSignInMutation } from '../state/sessionApi.ts';
import { EntrySheet } from './EntrySheet.tsx';

export function SignIn({ session }: { session: SessionAnswer }) {
  const [signIn, { isLoading, error }] = useSignInMutation();
  const { register, handleSubmit, setValue, formState } = useForm({
    resolver: zodResolver(SignInSchema),
    defaultValues: { name: '', password: '' },
  });
  const { demo } = session;
  return (
    <EntrySheet
      title="Sign in"
      beside={
        demo && (
          <DemoPeople
            demo={demo}
            choose={(name) => {
              setValue('name', name);
              setValue('password', demo.password);
              void signIn({ name, password: demo.password });
            }}
          />
        )
      }
    >
      <form onSubmit={handleSubmit((values) => void signIn(values))} noValidate>
        <Field id="name" label="Name" error={formState.errors.name?.message}>
          <input id="name" className="field" autoComplete="username" autoFocus {...register('name')} />
        </Field>
        <PasswordField
          id="password"
          label="Password"
          error={formState.errors.password?.message}
          autoComplete="current-password"
          {...register('password')}
        />
        <FailureText error={error} className="mb-3" />
        <button type="submit" className="button" disabled={isLoading}>
          {isLoading ? 'signing in' : 'Sign in'}
        </button>
      </form>
    </EntrySheet>
  );
}

function DemoPeople({ demo, choose }: { demo: NonNullable<SessionAnswer['demo']>; choose: (name: string) => void }) {
  return (
    <section aria-label="demo">
      <h2 className="section-title mb-1">Demo</h2>
      <p className="mb-3 text-sm text-soft">
        The harbour authority’s people. Their password is <code className="font-mono text-ink">{demo.password}</code>.
        Messages arrive on the{' '}
        <a className="button-plain" href={demo.mailPage} target="_blank" rel="noreferrer">
          mail page
        </a>
        .
      </p>
      <ul>
        {demo.people.map(({ name, does }) => (
          <li key={name} className="border-t border-hair">
            <button
              type="button"
              className="flex w-full justify-between gap-3 py-1.5 text-left hover:text-petrol"
              onClick={() => choose(name)}
              aria-label={`sign in as ${name}`}
            >
              <b className="font-semibold">{name}</b>
              <span className="text-right text-sm text-soft">{does}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
