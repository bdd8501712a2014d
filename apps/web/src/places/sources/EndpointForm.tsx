import { zodResolver } from '@hookform/resolvers/zod';
import type { GivenAnswer, TryAnswer } from '@zetopsis/contract';
import { formatBytes, formatCount, formatDuration } from '@zetopsis/core/format';
import { useForm } from 'react-hook-form';
import { z } from 'zod';
import { Field, problemOf } from '../../forms/Field.tsx';
import { FormAside } from '../../forms/FormAside.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { Outcome } from '../../forms/Outcome.tsx';
import { useSourcesQuery } from '../../state/endpointsApi.ts';
import { asFailure } from '../../state/failure.ts';
import { useAddEndpointsMutation, useChangeEndpointMutation, useTryEndpointMutation } from '../../state/givenApi.ts';
import { EndpointProof } from './EndpointProof.tsx';
import { documentOf, Typed, typedOf } from './endpointModel.ts';

/** Gives an endpoint by its address; it can be tried before it counts. */
export function EndpointForm({ given, close }: { given: GivenAnswer | null; close: () => void }) {
  const [tryIt, trying] = useTryEndpointMutation();
  const [add, adding] = useAddEndpointsMutation();
  const [save, saving] = useChangeEndpointMutation();
  const { data: sources } = useSourcesQuery();
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
        <div className="grid grid-cols-3 gap-3">
          <Field id="endpoint-interval" label="Every, seconds" error={problem('intervalSeconds')}>
            <input
              id="endpoint-interval"
              className="field"
              inputMode="numeric"
              {...register('intervalSeconds', { valueAsNumber: true })}
            />
          </Field>
          <Field id="endpoint-timeout" label="Wait at most, s" error={problem('timeoutSeconds')}>
            <input
              id="endpoint-timeout"
              className="field"
              inputMode="decimal"
              placeholder="⅘ of it"
              {...register('timeoutSeconds')}
            />
          </Field>
          <Field id="endpoint-through" label="Reached" error={problem('through')}>
            <select id="endpoint-through" className="field" {...register('through')}>
              <option value="">directly</option>
              {sources?.connections.map(({ name }) => (
                <option key={name} value={name}>
                  through {name}
                </option>
              ))}
            </select>
          </Field>
        </div>
        {through !== '' && (
          <p className="-mt-2 mb-3 text-xs text-soft">
            Through the cluster’s API, with its token: write POD.NAMESPACE.pod, SERVICE.NAMESPACE.service or NODE.node
            for the host. The token needs get on the proxy of these.
          </p>
        )}
        {through === '' && (
          <EndpointProof register={register} proof={proof} problem={problem} kept={given?.hasSecret ?? false} />
        )}
        <div className="grid grid-cols-2 gap-3">
          <Field id="endpoint-labels" label="Attach labels, one a line" error={problem('labels')}>
            <textarea
              id="endpoint-labels"
              className="field h-16 font-mono text-xs"
              placeholder="quay: north"
              {...register('labels')}
            />
          </Field>
          <Field id="endpoint-drop" label="Do not keep, one a line" error={problem('drop')}>
            <textarea
              id="endpoint-drop"
              className="field h-16 font-mono text-xs"
              placeholder={'debug_*\nrequests_total where user is *'}
              {...register('drop')}
            />
          </Field>
        </div>
        <Field id="endpoint-host" label="Machine outside all clusters whose page this is" error={problem('host')}>
          <input id="endpoint-host" className="field" placeholder="none" {...register('host')} />
        </Field>
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

function TryResult({ result }: { result: TryAnswer }) {
  const facts = [
    `took ${formatDuration(Math.max(1, result.durationMs))}`,
    result.bytes === null ? null : formatBytes(result.bytes),
    result.form,
    result.contentType,
    result.series === null ? null : `${formatCount(result.series, 'series', 'series')} kept`,
    result.dropped === 0 ? null : `${result.dropped} not kept`,
  ].filter((fact) => fact !== null && fact !== '');
  return (
    <Outcome label="result of the try">
      <h3 className="mb-1">{result.ok ? 'It can be read.' : 'It cannot be read.'}</h3>
      <p className={result.ok ? 'text-sm' : 'text-sm font-semibold'}>{result.verdict}</p>
      {result.nextStep && <p className="text-sm">→ {result.nextStep}</p>}
      <p className="mb-2 text-sm text-soft">{facts.join(' · ')}</p>
      {result.lines.length > 0 && (
        <table className="w-full table-fixed text-xs">
          <thead>
            <tr className="border-b border-structure text-left text-soft">
              <th className="w-8 py-1 font-medium">line</th>
              <th className="py-1 pr-2 font-medium">as it came</th>
              <th className="py-1 font-medium">as it is understood</th>
            </tr>
          </thead>
          <tbody>
            {result.lines.map((line) => (
              <tr key={line.line} className="border-b border-hair align-baseline">
                <td className="text-soft">{line.line}</td>
                <td className="pr-2 font-mono break-all">{line.text}</td>
                <td className="break-words">
                  {line.problem === null ? line.as : <b className="text-critical">{line.problem}</b>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {result.more && <p className="mt-1 text-sm text-soft">The rest of the page is not shown.</p>}
    </Outcome>
  );
}
