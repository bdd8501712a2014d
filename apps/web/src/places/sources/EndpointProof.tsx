import type { UseFormRegister } from 'react-hook-form';
import { Field } from '../../forms/Field.tsx';
import { PasswordField } from '../../forms/PasswordField.tsx';
import type { Typed } from './endpointModel.ts';

const PROOFS = {
  none: 'nothing',
  basic: 'name and password',
  bearer: 'a token',
  certificate: 'a client certificate',
} as const;
const SECRETS = { basic: 'Password', bearer: 'Token', certificate: 'Key of the certificate (PEM)' } as const;

/** How an endpoint that is asked directly is told who asks. `kept`: it has a secret already. */
export function EndpointProof({
  register,
  proof,
  problem,
  kept,
}: {
  register: UseFormRegister<Typed>;
  proof: Typed['proof'];
  problem: (path: keyof Typed) => string | undefined;
  kept: boolean;
}) {
  const stays = kept ? ' (empty: the kept one stays)' : '';
  return (
    <>
      <Field id="endpoint-proof" label="Proves who asks by" error={problem('proof')}>
        <select id="endpoint-proof" className="field" {...register('proof')}>
          {Object.entries(PROOFS).map(([value, text]) => (
            <option key={value} value={value}>
              {text}
            </option>
          ))}
        </select>
      </Field>
      {proof === 'basic' && (
        <Field id="endpoint-user" label="User name" error={problem('user')}>
          <input id="endpoint-user" className="field" autoComplete="off" {...register('user')} />
        </Field>
      )}
      {proof === 'certificate' && (
        <Field id="endpoint-certificate" label="Certificate (PEM)" error={problem('certificate')}>
          <textarea id="endpoint-certificate" className="field h-20 font-mono text-xs" {...register('certificate')} />
        </Field>
      )}
      {proof === 'certificate' && (
        <Field id="endpoint-secret" label={`${SECRETS.certificate}${stays}`} error={problem('secret')}>
          <textarea id="endpoint-secret" className="field h-20 font-mono text-xs" {...register('secret')} />
        </Field>
      )}
      {(proof === 'basic' || proof === 'bearer') && (
        <PasswordField
          id="endpoint-secret"
          label={`${SECRETS[proof]}${stays}`}
          error={problem('secret')}
          autoComplete="new-password"
          {...register('secret')}
        />
      )}
      <Field
        id="endpoint-authority"
        label="Certificate authority (PEM; empty when a public one signed)"
        error={problem('authority')}
      >
        <textarea id="endpoint-authority" className="field h-14 font-mono text-xs" {...register('authority')} />
      </Field>
    </>
  );
}
