import type { UseFormRegister } from 'react-hook-form';
import { Field } from '../../forms/Field.tsx';
import { useSourcesQuery } from '../../state/endpointsApi.ts';
import type { Typed } from './endpointModel.ts';

interface Props {
  readonly register: UseFormRegister<Typed>;
  readonly problem: (path: keyof Typed) => string | undefined;
}

/** How often it is read, and which way. */
export function EndpointReach({ register, problem, through }: Props & { readonly through: string }) {
  const { data: sources } = useSourcesQuery();
  return (
    <>
      <div className="grid grid-cols-3 gap-3">
        <Field id="endpoint-interval" label="Every, seconds" error={problem('intervalSeconds')}>
          <input
            id="endpoint-interval"
            className="field"
            inputMode="numeric"
            placeholder="as its group"
            {...register('intervalSeconds')}
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
          Through the cluster’s API, with its token: write POD.NAMESPACE.pod, SERVICE.NAMESPACE.service or NODE.node for
          the host. The token needs get on the proxy of these.
        </p>
      )}
    </>
  );
}

/** What is kept of its page, and by which labels. */
export function EndpointKeeps({ register, problem }: Props) {
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        <Field id="endpoint-labels" label="Attach labels, one a line" error={problem('labels')}>
          <textarea
            id="endpoint-labels"
            className="field h-16 font-mono text-xs"
            placeholder="quay: north"
            {...register('labels')}
          />
        </Field>
        <Field id="endpoint-drop" label="Leave out, one a line" error={problem('drop')}>
          <textarea
            id="endpoint-drop"
            className="field h-16 font-mono text-xs"
            placeholder={'debug_*\nrequests_total where user is *'}
            {...register('drop')}
          />
        </Field>
      </div>
      <div className="grid grid-cols-2 gap-3">
        <Field id="endpoint-host" label="Machine outside all clusters" error={problem('host')}>
          <input id="endpoint-host" className="field" placeholder="none: no machine’s page" {...register('host')} />
        </Field>
        <Field id="endpoint-group" label="Group" error={problem('group')}>
          <input id="endpoint-group" className="field" placeholder="none" {...register('group')} />
        </Field>
      </div>
    </>
  );
}
