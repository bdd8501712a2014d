import { zodResolver } from '@hookform/resolvers/zod';
import {
  type ConnectionAnswer,
  ConnectionChange,
  ConnectionInput,
  type ConnectionTest,
  trimmedBlanks,
} from '@zetopsis/contract';
import { formatDuration } from '@zetopsis/core/format';
import { type FieldErrors, type UseFormRegister, useForm } from 'react-hook-form';
import type { z } from 'zod';
import { Confirm } from '../../drawing/Confirm.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { Field, problemOf } from '../../forms/Field.tsx';
import { FormAside } from '../../forms/FormAside.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { Outcome } from '../../forms/Outcome.tsx';
import {
  useAddConnectionMutation,
  useChangeConnectionMutation,
  useRemoveConnectionMutation,
  useTestConnectionMutation,
} from '../../state/connectionsApi.ts';
import { asFailure } from '../../state/failure.ts';
import { isLeftOut, testVerdict, trimmedWords } from './sourcesModel.ts';

type Values = z.input<typeof ConnectionInput>;
/** When changing, an empty token means the stored one. */
const Changing = ConnectionInput.extend({ token: ConnectionChange.shape.token });

const TRAITS = [
  { trait: 'environment', label: 'Environment', such: 'production' },
  { trait: 'region', label: 'Region', such: 'north' },
  { trait: 'flavour', label: 'Flavour', such: 'public-facing' },
] as const;

export function ConnectionForm({ connection, close }: { connection: ConnectionAnswer | null; close: () => void }) {
  const [test, testing] = useTestConnectionMutation();
  const [add, adding] = useAddConnectionMutation();
  const [save, saving] = useChangeConnectionMutation();
  const { register, handleSubmit, formState } = useForm<Values, unknown, Values>({
    resolver: zodResolver(connection ? Changing : ConnectionInput, undefined, { raw: true }),
    defaultValues: {
      name: connection?.name ?? '',
      address: connection?.address ?? '',
      token: '',
      authority: connection?.authority ?? '',
      environment: connection?.environment ?? '',
      region: connection?.region ?? '',
      flavour: connection?.flavour ?? '',
      nodePage: connection?.nodePage ?? { path: '/metrics', intervalSeconds: 15 },
    },
  });
  const error = adding.error ?? saving.error;
  const failure = error ? asFailure(error) : null;
  const problem = (path: keyof Values) => formState.errors[path]?.message ?? problemOf(failure, path);
  const submit = async (values: Values) => {
    const { name: _name, ...change } = values;
    const done = connection ? await save({ id: connection.id, change }) : await add(values);
    if (!done.error) close();
  };
  const tryOut = ({ name: _name, ...values }: Values) =>
    void test({ ...values, ...(connection ? { connectionId: connection.id } : {}) });
  return (
    <FormAside
      label={connection ? `change ${connection.name}` : 'connect a cluster'}
      title={connection ? `Change ${connection.name}` : 'Connect a cluster'}
      width="narrow"
    >
      <p className="mb-4 text-sm text-soft">
        Zetopsis lists and watches; it never writes. The token is stored encrypted and not shown again.
      </p>
      <form onSubmit={handleSubmit((values) => void submit(values))} noValidate>
        <ConnectionFields fresh={connection === null} register={register} errors={formState.errors} problem={problem} />
        <BlankNote values={formState.isSubmitted || testing.data ? testing.originalArgs : undefined} />
        <FormFailure error={error} />
        <div className="flex gap-2">
          <button
            type="button"
            className="button"
            disabled={testing.isLoading}
            onClick={() => void handleSubmit(tryOut)()}
          >
            {testing.isLoading ? 'testing' : 'Test'}
          </button>
          <button type="submit" className="button" disabled={adding.isLoading || saving.isLoading}>
            {connection ? 'Save' : 'Connect'}
          </button>
          <button type="button" className="button-plain px-2" onClick={close}>
            cancel
          </button>
          {connection && <Remove connection={connection} done={close} />}
        </div>
      </form>
      {testing.data && <TestResult key={testing.requestId} test={testing.data} />}
      <FailureText error={testing.error} className="mt-3" />
    </FormAside>
  );
}

/** What is asked of a cluster; of one that is known the name stays, and the token that is kept. */
function ConnectionFields({
  fresh,
  register,
  errors,
  problem,
}: {
  fresh: boolean;
  register: UseFormRegister<Values>;
  errors: FieldErrors<Values>;
  problem: (path: keyof Values) => string | undefined;
}) {
  return (
    <>
      <Field id="connection-name" label="Name" error={problem('name')}>
        <input id="connection-name" className="field" disabled={!fresh} {...register('name')} />
      </Field>
      <Field id="connection-address" label="Address of its API" error={problem('address')}>
        <input
          id="connection-address"
          className="field font-mono text-sm"
          placeholder="https://host:6443"
          {...register('address')}
        />
      </Field>
      <Field
        id="connection-token"
        label={fresh ? 'Token' : 'Token (empty: the stored one stays)'}
        error={problem('token')}
      >
        <textarea
          id="connection-token"
          className="field h-16 font-mono text-xs"
          spellCheck={false}
          autoComplete="off"
          {...register('token')}
        />
      </Field>
      <Field
        id="connection-authority"
        label="Certificate authority (PEM; empty when a public one signed)"
        error={problem('authority')}
      >
        <textarea
          id="connection-authority"
          className="field h-24 font-mono text-xs"
          spellCheck={false}
          {...register('authority')}
        />
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Field id="connection-path" label="Path of node pages" error={errors.nodePage?.path?.message}>
          <input id="connection-path" className="field font-mono text-sm" {...register('nodePage.path')} />
        </Field>
        <Field id="connection-interval" label="Read every, seconds" error={errors.nodePage?.intervalSeconds?.message}>
          <input
            id="connection-interval"
            className="field"
            inputMode="numeric"
            {...register('nodePage.intervalSeconds', { valueAsNumber: true })}
          />
        </Field>
      </div>
      <div className="grid grid-cols-3 gap-3">
        {TRAITS.map(({ trait, label, such }) => (
          <Field key={trait} id={`connection-${trait}`} label={label} error={problem(trait)}>
            <input id={`connection-${trait}`} className="field" placeholder={such} {...register(trait)} />
          </Field>
        ))}
      </div>
      <p className="-mt-2 mb-3 text-xs text-soft">
        What kind of cluster it is, in your own words: the scope line can then show all of one kind together.
      </p>
    </>
  );
}

function BlankNote({ values }: { values: Record<string, unknown> | undefined }) {
  const words = values ? trimmedWords(trimmedBlanks(values)) : null;
  return words ? <p className="mb-3 text-sm">{words}</p> : null;
}

function TestResult({ test }: { test: ConnectionTest }) {
  return (
    <Outcome label="result of the test">
      <h3 className="mb-1">{testVerdict(test)}</h3>
      <p className="mb-2 text-sm text-soft">
        {test.reached ? `It answers; it calls itself version ${test.clusterVersion ?? 'unknown'}.` : test.problem} Took{' '}
        {formatDuration(test.durationMs)}.
      </p>
      {test.kinds.length > 0 && (
        <table className="w-full text-sm">
          <tbody>
            {test.kinds.map((kind) => (
              <tr key={kind.kind} className="border-t border-hair align-baseline">
                <td className="py-1 pr-3">{kind.kind}s</td>
                <td className="py-1 pr-3 whitespace-nowrap">
                  {kind.may === 'read' ? (
                    `readable, ${kind.count}`
                  ) : isLeftOut(kind.kind, kind.may) ? (
                    'left out'
                  ) : (
                    <b>{kind.may}</b>
                  )}
                </td>
                <td className="py-1 text-soft">
                  {isLeftOut(kind.kind, kind.may)
                    ? 'The account is not granted them: when they change is not known, all else is.'
                    : (kind.why ?? '')}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {test.nodePage && (
        <p className={test.nodePage.ok ? 'mt-2 text-sm' : 'mt-2 text-sm font-semibold'}>{test.nodePage.text}</p>
      )}
    </Outcome>
  );
}

function Remove({ connection, done }: { connection: ConnectionAnswer; done: () => void }) {
  const [remove, { isLoading }] = useRemoveConnectionMutation();
  return (
    <Confirm
      trigger="remove"
      triggerClass="button ml-auto text-critical"
      title={`Remove ${connection.name}?`}
      text="Its inventory, readings and alerts are deleted with it and cannot be brought back. The cluster itself is not touched."
      keep="Keep it"
    >
      {(close) => (
        <button
          type="button"
          className="button text-critical"
          disabled={isLoading}
          onClick={async () => {
            await remove(connection.id);
            close();
            done();
          }}
        >
          Remove with everything read
        </button>
      )}
    </Confirm>
  );
}
