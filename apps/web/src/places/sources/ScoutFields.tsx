import { SERVES_KEY } from '@zetopsis/contract';
import { Field } from '../../forms/Field.tsx';
import { PasswordField } from '../../forms/PasswordField.tsx';
import { useSourcesQuery } from '../../state/endpointsApi.ts';
import type { Typed } from './scoutModel.ts';

/** What a group of fields of a scout is given: what is typed, how to type, and what is wrong with it. */
export interface ScoutFieldProps {
  readonly typed: Typed;
  readonly type: (part: Partial<Typed>) => void;
  readonly problem: (field: string) => string | undefined;
}
const inputOf =
  ({ typed, type }: ScoutFieldProps) =>
  (field: Exclude<keyof Typed, 'identity' | 'off' | 'over'>) => ({
    id: `scout-${field}`,
    value: typed[field],
    onChange: ({ target }: { target: { value: string } }) => type({ [field]: target.value }),
  });

/** Among what it looks. */
export function ScoutAmong(props: ScoutFieldProps) {
  const { data: sources } = useSourcesQuery();
  const { problem } = props;
  const text = inputOf(props);
  return (
    <>
      <div className="grid grid-cols-3 gap-3">
        <Field id="scout-among" label="Look among" error={problem('among')}>
          <select className="field" {...text('among')}>
            {['pods', 'services', 'nodes'].map((kind) => (
              <option key={kind}>{kind}</option>
            ))}
          </select>
        </Field>
        <Field id="scout-cluster" label="of cluster" error={problem('cluster')}>
          <select className="field" {...text('cluster')}>
            <option value="">every one</option>
            {sources?.connections.map(({ name }) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </Field>
        <Field id="scout-namespaces" label="in namespaces" error={problem('namespaces')}>
          <input className="field" placeholder="all" {...text('namespaces')} />
        </Field>
      </div>
      <div className="grid grid-cols-2 gap-3">
        <Field id="scout-labels" label="With labels, one a line" error={problem('labels')}>
          <textarea className="field h-14 font-mono text-xs" placeholder="app: web" {...text('labels')} />
        </Field>
        <Field id="scout-annotations" label="With annotations, one a line" error={problem('annotations')}>
          <textarea className="field h-14 font-mono text-xs" {...text('annotations')} />
        </Field>
      </div>
    </>
  );
}

/** Where on what it finds the page is. */
export function ScoutPage(props: ScoutFieldProps) {
  const { problem } = props;
  const text = inputOf(props);
  return (
    <>
      <div className="grid grid-cols-4 gap-3">
        <Field id="scout-ports" label="Ports" error={problem('ports')}>
          <input className="field" placeholder="every one" {...text('ports')} />
        </Field>
        <Field id="scout-container" label="Container" error={problem('container')}>
          <input className="field" placeholder="any" {...text('container')} />
        </Field>
        <Field id="scout-path" label="Path" error={problem('path')}>
          <input className="field font-mono text-sm" {...text('path')} />
        </Field>
        <Field id="scout-group" label="Group" error={problem('group')}>
          <input className="field" placeholder="none" {...text('group')} />
        </Field>
      </div>
      <div className="grid grid-cols-3 gap-3">
        <Field id="scout-intervalSeconds" label="Every, s" error={problem('intervalSeconds')}>
          <input className="field" inputMode="numeric" placeholder="as its group" {...text('intervalSeconds')} />
        </Field>
        <Field id="scout-route" label="Read" error={problem('route')}>
          <select className="field" {...text('route')}>
            <option value="direct">directly, at the object’s address</option>
            <option value="through the cluster">through the cluster’s API</option>
          </select>
        </Field>
        <Field id="scout-scheme" label="Scheme" error={problem('scheme')}>
          <select className="field" {...text('scheme')}>
            <option>http</option>
            <option>https</option>
          </select>
        </Field>
      </div>
    </>
  );
}

/** How it proves who asks; through a cluster's API that is the cluster's matter. */
export function ScoutProof(props: ScoutFieldProps & { readonly hasSecret: boolean }) {
  const { typed, problem, hasSecret } = props;
  const text = inputOf(props);
  return (
    <>
      {typed.route === 'direct' && (
        <div className="grid grid-cols-3 gap-3">
          <Field id="scout-proof" label="Proof of who asks" error={problem('proof')}>
            <select className="field" {...text('proof')}>
              <option value="none">none</option>
              <option value="bearer">a token</option>
              <option value="basic">name and password</option>
            </select>
          </Field>
          {typed.proof === 'basic' && (
            <Field id="scout-user" label="User" error={problem('user')}>
              <input className="field" autoComplete="off" {...text('user')} />
            </Field>
          )}
          {typed.proof !== 'none' && (
            <PasswordField
              label={typed.proof === 'basic' ? 'Password' : 'Token'}
              error={problem('secret')}
              autoComplete="off"
              placeholder={hasSecret ? 'the kept one stays' : ''}
              {...text('secret')}
            />
          )}
        </div>
      )}
      {typed.route === 'direct' && typed.scheme === 'https' && (
        <Field
          id="scout-authority"
          label="Certificate authority (PEM; empty: a public one)"
          error={problem('authority')}
        >
          <textarea className="field h-14 font-mono text-xs" spellCheck={false} {...text('authority')} />
        </Field>
      )}
    </>
  );
}

/** What annotations of the objects themselves say. */
export function ScoutAnnotations(props: ScoutFieldProps) {
  const { problem } = props;
  const text = inputOf(props);
  return (
    <>
      <Field id="scout-serves" label="Annotation that says what is served" error={problem('keys')}>
        <input className="field font-mono text-sm" placeholder={SERVES_KEY} {...text('serves')} />
      </Field>
      <details className="mb-3">
        <summary className="cursor-pointer text-sm font-semibold">Annotations already on the clusters</summary>
        <div className="mt-1 grid grid-cols-3 gap-3">
          <Field id="scout-portKey" label="for the port">
            <input className="field font-mono text-xs" placeholder="example/port" {...text('portKey')} />
          </Field>
          <Field id="scout-pathKey" label="for the path">
            <input className="field font-mono text-xs" placeholder="example/path" {...text('pathKey')} />
          </Field>
          <Field id="scout-schemeKey" label="for the scheme">
            <input className="field font-mono text-xs" placeholder="example/scheme" {...text('schemeKey')} />
          </Field>
        </div>
      </details>
    </>
  );
}

/** What is kept of what it reads, and by which labels. */
export function ScoutKeeps(props: ScoutFieldProps) {
  const { typed, type, problem } = props;
  const text = inputOf(props);
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        <Field id="scout-attach" label="Attach labels, one a line" error={problem('attach')}>
          <textarea
            className="field h-16 font-mono text-xs"
            placeholder={'team: {label.team}\nworkload: {workload}'}
            {...text('attach')}
          />
        </Field>
        <Field id="scout-drop" label="Leave out, one a line" error={problem('drop')}>
          <textarea className="field h-16 font-mono text-xs" placeholder="debug_*" {...text('drop')} />
        </Field>
      </div>
      <label className="mb-1 flex items-center gap-2 text-sm">
        <input type="checkbox" checked={typed.identity} onChange={({ target }) => type({ identity: target.checked })} />
        attach namespace, pod, container and node, so that every series is tied to its object
      </label>
      {typed.over.map((other) => (
        <label key={other} className="mb-1 flex items-center gap-2 text-sm">
          <input type="checkbox" checked onChange={() => type({ over: typed.over.filter((one) => one !== other) })} />
          pages that scout {other} finds, too, were moved here
        </label>
      ))}
      <label className="mb-3 flex items-center gap-2 text-sm">
        <input type="checkbox" checked={typed.off} onChange={({ target }) => type({ off: target.checked })} />
        off: what it found is retired
      </label>
    </>
  );
}
