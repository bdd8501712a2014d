import { zodResolver } from '@hookform/resolvers/zod';
import type { GivenAnswer } from '@zetopsis/contract';
import { useForm } from 'react-hook-form';
import { z } from 'zod';
import { Field, problemOf } from '../../forms/Field.tsx';
import { FormAside } from '../../forms/FormAside.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { asFailure } from '../../state/failure.ts';
import { useAddEndpointsMutation, useChangeEndpointMutation, useTryEndpointMutation } from '../../state/givenApi.ts';
import { EndpointKeeps, EndpointReach } from './EndpointFields.tsx';
import { EndpointProof } from './EndpointProof.tsx';
import { documentOf, Typed, typedOf } from './endpointModel.ts';
import { TryResult } from './TryResult.tsx';

/** Gives an endpoint by its address; it can be tried before it counts. */
export function EndpointForm({ given, close }: { given: GivenAnswer | null; close: () => void }) {
  const [tryIt, trying] = useTryEndpointMutation();
  const [add, adding] = useAddEndpointsMutation();
  const [save, saving] = useChangeEndpointMutation();
  const known = given?.document;
  const { register, handleSubmit, formState, watch } = useForm<Typed, unknown, z.output<typeof Typed>>({
    resolver: zodResolver(Typed),
    defaultValues: typedOf(given),
  });
  const error = adding.error ?? saving.error ?? trying.error;
  const failure = error ? asFailure(error) : null;
  const problem = (path: keyof Typed) =>
    formState.errors[path]?.message ??
    problemOf(failure, path) ??
    problemOf(failure, `document.${path}`) ??
    problemOf(failure, `endpoints.0.document.${path}`) ??
    problemOf(failure, `endpoints.0.${path}`);
  const [proof, through] = watch(['proof', 'through']);
  const submit = async (typed: z.output<typeof Typed>) => {
    const one = { key: typed.key, document: documentOf(typed, known?.use ?? 'read'), secret: typed.secret };
    const done = given ? await save(one) : await add([one]);
    if (!done.error) close();
  };
  const attempt = (typed: z.output<typeof Typed>) =>
    void tryIt({
      document: documentOf(typed, 'read'),
      secret: typed.secret,
      ...(given ? { like: given.key } : {}),
    });
  return (
    <FormAside
      label={given ? `change ${given.key}` : 'add an endpoint'}
      title={given ? `Change ${given.key}` : 'Add an endpoint'}
      width="wide"
    >
      <p className="mb-4 text-sm text-soft">
        A page with metrics, in OpenMetrics or plain text form. Try it first: nothing is kept by that.
      </p>
      <form onSubmit={handleSubmit((typed) => void submit(typed))} noValidate>
        <Field id="endpoint-key" label="Name" error={problem('key')}>
          <input id="endpoint-key" className="field" disabled={given !== null} {...register('key')} />
        </Field>
        <Field id="endpoint-address" label="Address" error={problem('address')}>
          <input
            id="endpoint-address"
            className="field font-mono text-sm"
            placeholder={through === '' ? 'http://host:9102/metrics' : 'http://POD.NAMESPACE.pod:9102/metrics'}
            {...register('address')}
          />
        </Field>
        <EndpointReach register={register} problem={problem} through={through} />
        {through === '' && (
          <EndpointProof register={register} proof={proof} problem={problem} kept={given?.hasSecret ?? false} />
        )}
        <EndpointKeeps register={register} problem={problem} />
        <FormFailure error={error} />
        <div className="flex gap-2">
          <button
            type="button"
            className="button"
            disabled={trying.isLoading}
            onClick={() =>
              void handleSubmit(attempt, (errors) => {
                // a name is not needed for trying
                if (Object.keys(errors).some((field) => field !== 'key')) return;
                attempt(Typed.omit({ key: true }).extend({ key: z.string() }).parse(watch()));
              })()
            }
          >
            {trying.isLoading ? 'trying' : 'Try it'}
          </button>
          <button type="submit" className="button" disabled={adding.isLoading || saving.isLoading}>
            {given ? 'Save' : 'Add'}
          </button>
          <button type="button" className="button-plain px-2" onClick={close}>
            cancel
          </button>
        </div>
      </form>
      {trying.data && <TryResult key={trying.requestId} result={trying.data} />}
    </FormAside>
  );
}
