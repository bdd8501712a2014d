import { zodResolver } from '@hookform/resolvers/zod';
import {
  type ConnectionAnswer,
  ConnectionChange,
  ConnectionInput,
  type ConnectionTest,
  trimmedBlanks,
} from '@zetopsis/contract';
import { formatDuration } from '@zetopsis/core/format';
import { AlertDialog } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { useForm } from 'react-hook-form';
import type { z } from 'zod';
import { Field, problemOf } from '../drawing/Field.tsx';
import { FormFailure } from '../drawing/FormFailure.tsx';
import { asFailure } from '../state/failure.ts';
import {
  useAddConnectionMutation,
  useChangeConnectionMutation,
  useRemoveConnectionMutation,
  useTestConnectionMutation,
} from '../state/sourcesApi.ts';
import { testVerdict, trimmedWords } from './sourcesModel.ts';

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
    <aside
      aria-label={connection ? `change ${connection.name}` : 'connect a cluster'}
      className="w-[460px] shrink-0 overflow-y-auto border-l border-line bg-sheet px-5 py-4"
    >
      <h2 className="mb-1 text-xl">{connection ? `Change ${connection.name}` : 'Connect a cluster'}</h2>
      <p className="mb-4 text-sm text-soft">
        Zetopsis lists and watches; it never writes. The token is stored encrypted and not shown again.
      </p>
      <form onSubmit={handleSubmit((values) => void submit(values))} noValidate>
        <Field id="connection-name" label="Name" error={problem('name')}>
          <input id="connection-name" className="field" disabled={connection !== null} {...register('name')} />
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
          label={connection ? 'Token (empty: the stored one stays)' : 'Token'}
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
          <Field id="connection-path" label="Path of node pages" error={formState.errors.nodePage?.path?.message}>
            <input id="connection-path" className="field font-mono text-sm" {...register('nodePage.path')} />
          </Field>
          <Field
            id="connection-interval"
            label="Read every, seconds"
            error={formState.errors.nodePage?.intervalSeconds?.message}
          >
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
      {testing.error && (
        <p role="alert" className="mt-3 text-critical">
          {asFailure(testing.error).text}
        </p>
      )}
    </aside>
  );
}

function BlankNote({ values }: { values: Record<string, unknown> | undefined }) {
  const words = values ? trimmedWords(trimmedBlanks(values)) : null;
  return words ? <p className="mb-3 text-sm">{words}</p> : null;
}

function TestResult({ test }: { test: ConnectionTest }) {
  const section = useRef<HTMLElement>(null);
  useEffect(() => {
    // what it returns is no clean-up, so it must not be handed on
    void section.current?.scrollIntoView({ block: 'nearest' });
  }, []);
  return (
    <section ref={section} aria-label="result of the test" className="mt-4 border-t border-line pt-3" role="status">
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
                  {kind.may === 'read' ? `readable, ${kind.count}` : <b>{kind.may}</b>}
                </td>
                <td className="py-1 text-soft">{kind.why ?? ''}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {test.nodePage && (
        <p className={test.nodePage.ok ? 'mt-2 text-sm' : 'mt-2 text-sm font-semibold'}>{test.nodePage.text}</p>
      )}
    </section>
  );
}

function Remove({ connection, done }: { connection: ConnectionAnswer; done: () => void }) {
  const [remove, { isLoading }] = useRemoveConnectionMutation();
  const [open, setOpen] = useState(false);
  return (
    <AlertDialog.Root open={open} onOpenChange={setOpen}>
      <AlertDialog.Trigger className="button ml-auto text-critical">remove</AlertDialog.Trigger>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 bg-ground/70" />
        <AlertDialog.Content className="fixed top-32 left-1/2 w-[440px] -translate-x-1/2 border border-ink bg-sheet p-5">
          <AlertDialog.Title className="section-title">Remove {connection.name}?</AlertDialog.Title>
          <AlertDialog.Description className="my-3">
            Its inventory, readings and alerts are deleted with it and cannot be brought back. The cluster itself is not
            touched.
          </AlertDialog.Description>
          <div className="flex gap-2">
            <button
              type="button"
              className="button text-critical"
              disabled={isLoading}
              onClick={async () => {
                await remove(connection.id);
                setOpen(false);
                done();
              }}
            >
              Remove with everything read
            </button>
            <AlertDialog.Cancel className="button">Keep it</AlertDialog.Cancel>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
