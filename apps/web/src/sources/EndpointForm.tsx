import { zodResolver } from '@hookform/resolvers/zod';
import { EndpointDocument, type GivenAnswer, SourceKey, type TryAnswer } from '@zetopsis/contract';
import { formatBytes, formatCount, formatDuration } from '@zetopsis/core/format';
import { useEffect, useRef } from 'react';
import { useForm } from 'react-hook-form';
import { z } from 'zod';
import { Field, problemOf } from '../drawing/Field.tsx';
import { FormFailure } from '../drawing/FormFailure.tsx';
import { asFailure } from '../state/failure.ts';
import {
  useAddEndpointsMutation,
  useChangeEndpointMutation,
  useSourcesQuery,
  useTryEndpointMutation,
} from '../state/sourcesApi.ts';
import { dropText, labelText, readDrops, readLabels } from './lists.ts';

/** The document as it is typed: labels and drop rules as lines. */
const Typed = z.object({
  key: SourceKey,
  address: EndpointDocument.shape.address,
  intervalSeconds: EndpointDocument.shape.intervalSeconds,
  timeoutSeconds: z.union([z.literal(''), z.coerce.number<string>().min(0.5, 'at least half a second').max(60)]),
  proof: EndpointDocument.shape.proof,
  user: z.string(),
  secret: z.string(),
  certificate: z.string(),
  authority: EndpointDocument.shape.authority,
  through: z.string(),
  host: z.string(),
  labels: z.string().superRefine((text, context) => {
    const { problem } = readLabels(text);
    if (problem !== null) context.addIssue({ code: 'custom', message: problem });
  }),
  drop: z.string().superRefine((text, context) => {
    const { problem } = readDrops(text);
    if (problem !== null) context.addIssue({ code: 'custom', message: problem });
  }),
});
type Typed = z.input<typeof Typed>;

const PROOFS = {
  none: 'nothing',
  basic: 'name and password',
  bearer: 'a token',
  certificate: 'a client certificate',
} as const;
const SECRETS = { none: '', basic: 'Password', bearer: 'Token', certificate: 'Key of the certificate (PEM)' } as const;

const documentOf = (typed: z.output<typeof Typed>, use: z.infer<typeof EndpointDocument>['use']) => ({
  address: typed.address,
  intervalSeconds: typed.intervalSeconds,
  timeoutSeconds: typed.timeoutSeconds === '' ? null : typed.timeoutSeconds,
  labels: readLabels(typed.labels).labels,
  proof: typed.proof,
  user: typed.proof === 'basic' ? typed.user : '',
  certificate: typed.proof === 'certificate' ? typed.certificate : '',
  authority: typed.authority,
  through: typed.through === '' ? null : typed.through,
  host: typed.host,
  drop: readDrops(typed.drop).rules,
  use,
});

/** Gives an endpoint by its address; it can be tried before it counts. */
export function EndpointForm({ given, close }: { given: GivenAnswer | null; close: () => void }) {
  const [tryIt, trying] = useTryEndpointMutation();
  const [add, adding] = useAddEndpointsMutation();
  const [save, saving] = useChangeEndpointMutation();
  const { data: sources } = useSourcesQuery();
  const known = given?.document;
  const { register, handleSubmit, formState, watch } = useForm<Typed, unknown, z.output<typeof Typed>>({
    resolver: zodResolver(Typed),
    defaultValues: {
      key: given?.key ?? '',
      address: known?.address ?? '',
      intervalSeconds: known?.intervalSeconds ?? 15,
      timeoutSeconds: known?.timeoutSeconds == null ? '' : String(known.timeoutSeconds),
      proof: known?.proof ?? 'none',
      user: known?.user ?? '',
      secret: '',
      certificate: known?.certificate ?? '',
      authority: known?.authority ?? '',
      through: known?.through ?? '',
      host: known?.host ?? '',
      labels: labelText(known?.labels ?? {}),
      drop: dropText(known?.drop ?? []),
    },
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
    <aside
      aria-label={given ? `change ${given.key}` : 'add an endpoint'}
      className="w-[520px] shrink-0 overflow-y-auto border-l border-line bg-sheet px-5 py-4"
    >
      <h2 className="mb-1 text-xl">{given ? `Change ${given.key}` : 'Add an endpoint'}</h2>
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
                <textarea
                  id="endpoint-certificate"
                  className="field h-20 font-mono text-xs"
                  {...register('certificate')}
                />
              </Field>
            )}
            {proof !== undefined && proof !== 'none' && (
              <Field
                id="endpoint-secret"
                label={`${SECRETS[proof]}${given?.hasSecret ? ' (empty: the kept one stays)' : ''}`}
                error={problem('secret')}
              >
                {proof === 'certificate' ? (
                  <textarea id="endpoint-secret" className="field h-20 font-mono text-xs" {...register('secret')} />
                ) : (
                  <input
                    id="endpoint-secret"
                    type="password"
                    className="field"
                    autoComplete="new-password"
                    {...register('secret')}
                  />
                )}
              </Field>
            )}
            <Field
              id="endpoint-authority"
              label="Certificate authority (PEM; empty when a public one signed)"
              error={problem('authority')}
            >
              <textarea id="endpoint-authority" className="field h-14 font-mono text-xs" {...register('authority')} />
            </Field>
          </>
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
    </aside>
  );
}

function TryResult({ result }: { result: TryAnswer }) {
  const section = useRef<HTMLElement>(null);
  useEffect(() => {
    // what it returns is no clean-up, so it must not be handed on
    void section.current?.scrollIntoView({ block: 'nearest' });
  }, []);
  const facts = [
    `took ${formatDuration(Math.max(1, result.durationMs))}`,
    result.bytes === null ? null : formatBytes(result.bytes),
    result.form,
    result.contentType,
    result.series === null ? null : `${formatCount(result.series, 'series', 'series')} kept`,
    result.dropped === 0 ? null : `${result.dropped} not kept`,
  ].filter((fact) => fact !== null && fact !== '');
  return (
    <section ref={section} aria-label="result of the try" role="status" className="mt-4 border-t border-line pt-3">
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
    </section>
  );
}
