import { type ScoutAnswer, ScoutDocument, type ScoutPreview, SERVES_KEY, SourceKey } from '@zetopsis/contract';
import { formatCount } from '@zetopsis/core/format';
import { useEffect, useRef, useState } from 'react';
import { Field, problemOf } from '../drawing/Field.tsx';
import { FormFailure } from '../drawing/FormFailure.tsx';
import { asFailure } from '../state/failure.ts';
import {
  usePreviewScoutMutation,
  useRemoveScoutMutation,
  useSaveScoutMutation,
  useSourcesQuery,
} from '../state/sourcesApi.ts';
import { dropText, labelText, readDrops, readLabels, readSelector, selectorText } from './lists.ts';

const EMPTY = ScoutDocument.parse({});
/** As it is typed; lists are lines, or parted by blanks. */
const typedOf = (key: string, document: ScoutDocument) => ({
  key,
  cluster: document.cluster ?? '',
  namespaces: document.namespaces.join(' '),
  among: document.among as string,
  labels: selectorText(document.labels),
  annotations: selectorText(document.annotations),
  container: document.container,
  ports: document.ports.join(' '),
  serves: document.keys.serves,
  portKey: document.keys.port,
  pathKey: document.keys.path,
  schemeKey: document.keys.scheme,
  scheme: document.scheme as string,
  path: document.path,
  intervalSeconds: String(document.intervalSeconds),
  attach: labelText(document.attach),
  identity: document.identity,
  route: document.route as string,
  proof: document.proof as string,
  user: document.user,
  secret: '',
  authority: document.authority,
  drop: dropText(document.drop),
  off: document.use === 'off',
});
type Typed = ReturnType<typeof typedOf>;
const words = (text: string) => text.split(/[\s,]+/).filter((word) => word !== '');

/** The document, or what is wrong by field. */
function read(typed: Typed): { document: ScoutDocument | null; problems: Record<string, string> } {
  const problems: Record<string, string> = {};
  const [labels, annotations] = [readSelector(typed.labels), readSelector(typed.annotations)];
  const [attach, drop] = [readLabels(typed.attach), readDrops(typed.drop)];
  for (const [field, problem] of [
    ['labels', labels.problem],
    ['annotations', annotations.problem],
    ['attach', attach.problem],
    ['drop', drop.problem],
  ] as const)
    if (problem !== null) problems[field] = problem;
  const parsed = ScoutDocument.safeParse({
    cluster: typed.cluster === '' ? null : typed.cluster,
    namespaces: words(typed.namespaces),
    among: typed.among,
    labels: labels.selector,
    annotations: annotations.selector,
    container: typed.container,
    ports: words(typed.ports),
    keys: { serves: typed.serves, port: typed.portKey, path: typed.pathKey, scheme: typed.schemeKey },
    scheme: typed.scheme,
    path: typed.path,
    intervalSeconds: typed.intervalSeconds,
    attach: attach.labels,
    identity: typed.identity,
    route: typed.route,
    proof: typed.route === 'direct' ? typed.proof : 'none',
    user: typed.proof === 'basic' ? typed.user : '',
    authority: typed.authority,
    drop: drop.rules,
    use: typed.off ? 'off' : 'on',
  });
  for (const issue of parsed.error?.issues ?? []) problems[String(issue.path[0])] ??= issue.message;
  return { document: Object.keys(problems).length === 0 ? (parsed.data ?? null) : null, problems };
}

export function ScoutForm({ scout, close }: { scout: ScoutAnswer | null; close: () => void }) {
  const { data: sources } = useSourcesQuery();
  const [typed, setTyped] = useState(() => typedOf(scout?.key ?? '', scout?.document ?? EMPTY));
  const [problems, setProblems] = useState<Record<string, string>>({});
  const [preview, previewing] = usePreviewScoutMutation();
  const [save, saving] = useSaveScoutMutation();
  const [remove, removing] = useRemoveScoutMutation();
  const error = saving.error ?? previewing.error ?? removing.error;
  const failure = error ? asFailure(error) : null;
  const problem = (field: string) =>
    problems[field] ??
    problemOf(failure, field) ??
    failure?.fields.find(({ path }) => path.startsWith(`${field}.`))?.text;
  const text = (field: Exclude<keyof Typed, 'identity' | 'off'>) => ({
    id: `scout-${field}`,
    value: typed[field],
    onChange: ({ target }: { target: { value: string } }) => setTyped({ ...typed, [field]: target.value }),
  });
  const look = () => {
    const { document, problems: found } = read(typed);
    setProblems(found);
    if (document) void preview(document);
  };
  const submit = async () => {
    const { document, problems: found } = read(typed);
    const key = SourceKey.safeParse(typed.key);
    const all = key.success ? found : { ...found, key: key.error.issues[0]?.message ?? 'a bad name' };
    setProblems(all);
    if (!document || !key.success) return;
    const done = await save({ key: key.data, document, secret: typed.secret });
    if (!done.error) close();
  };
  return (
    <aside
      aria-label={scout ? `scout ${scout.key}` : 'make a scout'}
      className="w-[560px] shrink-0 overflow-y-auto border-l border-line bg-sheet px-5 py-4"
    >
      <h2 className="mb-3 text-xl">{scout ? `Scout ${scout.key}` : 'Make a scout'}</h2>
      <form
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        <Field id="scout-key" label="Name" error={problem('key')}>
          <input className="field" disabled={scout !== null} {...text('key')} />
        </Field>
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
          <Field id="scout-intervalSeconds" label="Every, s" error={problem('intervalSeconds')}>
            <input className="field" inputMode="numeric" {...text('intervalSeconds')} />
          </Field>
        </div>
        <div className="grid grid-cols-2 gap-3">
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
              <Field id="scout-secret" label={typed.proof === 'basic' ? 'Password' : 'Token'} error={problem('secret')}>
                <input
                  className="field"
                  type="password"
                  autoComplete="off"
                  placeholder={scout?.hasSecret ? 'the kept one stays' : ''}
                  {...text('secret')}
                />
              </Field>
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
        <div className="grid grid-cols-2 gap-3">
          <Field id="scout-attach" label="Attach labels, one a line" error={problem('attach')}>
            <textarea
              className="field h-16 font-mono text-xs"
              placeholder={'team: {label.team}\nworkload: {workload}'}
              {...text('attach')}
            />
          </Field>
          <Field id="scout-drop" label="Do not keep, one a line" error={problem('drop')}>
            <textarea className="field h-16 font-mono text-xs" placeholder="debug_*" {...text('drop')} />
          </Field>
        </div>
        <label className="mb-1 flex items-center gap-2 text-sm">
          <input
            type="checkbox"
            checked={typed.identity}
            onChange={({ target }) => setTyped({ ...typed, identity: target.checked })}
          />
          attach namespace, pod, container and node, so that every series is tied to its object
        </label>
        <label className="mb-3 flex items-center gap-2 text-sm">
          <input
            type="checkbox"
            checked={typed.off}
            onChange={({ target }) => setTyped({ ...typed, off: target.checked })}
          />
          off: what it found is retired
        </label>
        <FormFailure error={error} />
        <div className="flex gap-2">
          <button type="button" className="button" disabled={previewing.isLoading} onClick={look}>
            {previewing.isLoading ? 'looking' : 'Preview'}
          </button>
          <button type="submit" className="button" disabled={saving.isLoading}>
            {scout ? 'Save' : 'Make it'}
          </button>
          <button type="button" className="button-plain px-2" onClick={close}>
            cancel
          </button>
          {scout && (
            <button
              type="button"
              className="button ml-auto text-critical"
              disabled={removing.isLoading}
              onClick={async () => {
                const done = await remove(scout.key);
                if (!done.error) close();
              }}
            >
              remove
            </button>
          )}
        </div>
      </form>
      {previewing.data && <Preview key={previewing.requestId} preview={previewing.data} />}
    </aside>
  );
}

/** Objects that were left out for the same reason stand together, the most common reason last. */
function byReason(leftOut: ScoutPreview['leftOut']): [why: string, objects: string[]][] {
  const reasons = new Map<string, string[]>();
  for (const { cluster, object, why } of leftOut) {
    const own = reasons.get(why);
    if (own) own.push(`${cluster} › ${object}`);
    else reasons.set(why, [`${cluster} › ${object}`]);
  }
  return [...reasons].sort(([, a], [, b]) => a.length - b.length);
}

function Preview({ preview }: { preview: ScoutPreview }) {
  const section = useRef<HTMLElement>(null);
  useEffect(() => {
    // what it returns is no clean-up, so it must not be handed on
    void section.current?.scrollIntoView({ block: 'start' });
  }, []);
  return (
    <section ref={section} aria-label="preview" role="status" className="mt-4 border-t border-line pt-3 text-sm">
      <h3 className="mb-1 text-base">
        {formatCount(preview.foundInAll, 'page')} at {formatCount(preview.lookedAt, 'object')}
      </h3>
      {preview.merging.map((merge) => (
        <p key={merge.of.join()} className="mb-2 border border-warning px-2 py-1">
          <b className="text-warning">Their labels would merge:</b> {merge.of.join(', ')} would all be{' '}
          {Object.entries(merge.labels)
            .map(([name, value]) => `${name} ${value}`)
            .join(', ') || 'without labels'}
          .
        </p>
      ))}
      <ul className="mb-3">
        {preview.found.slice(0, 60).map((target) => (
          <li key={`${target.cluster} ${target.name}`} className="border-t border-hair py-0.5">
            <span className="text-soft">{target.cluster} › </span>
            <b className="font-semibold">{target.name}</b>
            {target.as !== null && ` wants translator ${target.as}`}
            {target.foundBy !== null && <span className="text-soft"> · read already, by scout {target.foundBy}</span>}
            <p className="font-mono text-xs break-all text-soft">
              {Object.entries(target.labels)
                .map(([name, value]) => `${name} ${value}`)
                .join(' · ')}
            </p>
          </li>
        ))}
      </ul>
      {preview.foundInAll > 60 && <p className="mb-3 text-soft">{preview.foundInAll - 60} more</p>}
      <h3 className="mb-1 text-base">Left out: {preview.leftOutInAll}</h3>
      <ul>
        {byReason(preview.leftOut).map(([why, objects]) => (
          <li key={why} className="border-t border-hair py-0.5">
            <b className="font-semibold">
              {formatCount(objects.length, 'object')}: {why}
            </b>
            <p className="text-soft">
              {objects.slice(0, 4).join(', ')}
              {objects.length > 4 && ` and ${objects.length - 4} more`}
            </p>
          </li>
        ))}
      </ul>
      {preview.leftOutInAll > preview.leftOut.length && (
        <p className="text-soft">{preview.leftOutInAll - preview.leftOut.length} more are not shown.</p>
      )}
    </section>
  );
}
