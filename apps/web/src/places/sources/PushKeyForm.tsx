import { PushDocument, type PushKeyAnswer, SourceKey } from '@zetopsis/contract';
import { useState } from 'react';
import { Field, problemOf } from '../../forms/Field.tsx';
import { FormAside } from '../../forms/FormAside.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { useSourcesQuery } from '../../state/endpointsApi.ts';
import { asFailure } from '../../state/failure.ts';
import { useRemovePushKeyMutation, useSavePushKeyMutation } from '../../state/pushKeysApi.ts';
import { dropText, labelText, readDrops, readLabels } from './lists.ts';

/** A token that is told this once. */
export interface Told {
  readonly key: string;
  readonly token: string;
}

const EMPTY = PushDocument.parse({});
const asTyped = (own: PushKeyAnswer | null) => {
  const known = own?.document ?? EMPTY;
  return {
    key: own?.key ?? '',
    team: known.team ?? '',
    cluster: known.cluster ?? '',
    namespace: known.namespace ?? '',
    intervalSeconds: String(known.intervalSeconds),
    labels: labelText(known.labels),
    drop: dropText(known.drop),
    oneIn: known.sampling === null ? '' : String(known.sampling.oneIn),
    slowSeconds: known.sampling === null ? '' : String(known.sampling.slowSeconds),
    origins: known.origins.join('\n'),
    off: known.use === 'off',
  };
};
type Typed = ReturnType<typeof asTyped>;
/** What was typed as a document; `problems` by field where it is none. */
function readTyped(typed: Typed) {
  const [labels, drop] = [readLabels(typed.labels), readDrops(typed.drop)];
  const key = SourceKey.safeParse(typed.key);
  const document = PushDocument.safeParse({
    team: typed.team === '' ? null : typed.team,
    cluster: typed.cluster === '' ? null : typed.cluster,
    namespace: typed.namespace === '' ? null : typed.namespace,
    intervalSeconds: typed.intervalSeconds,
    labels: labels.labels,
    drop: drop.rules,
    sampling:
      typed.oneIn.trim() === '' && typed.slowSeconds.trim() === ''
        ? null
        : { oneIn: typed.oneIn, slowSeconds: typed.slowSeconds },
    origins: typed.origins
      .split('\n')
      .map((line) => line.trim())
      .filter((line) => line !== ''),
    use: typed.off ? 'off' : 'on',
  });
  const problems: Record<string, string> = {
    ...(labels.problem ? { labels: labels.problem } : {}),
    ...(drop.problem ? { drop: drop.problem } : {}),
    ...(key.success ? {} : { key: key.error.issues[0]?.message ?? 'a bad name' }),
  };
  for (const issue of document.error?.issues ?? []) problems[fieldOf(issue.path)] ??= issue.message;
  const fine = document.success && key.success && Object.keys(problems).length === 0;
  return { problems, wish: fine ? { key: key.data, document: document.data } : null };
}

/** Of a list it is the list's; of what is kept of traces the part's own. */
const fieldOf = (path: readonly PropertyKey[]): string =>
  String(path.findLast((part) => typeof part === 'string') ?? '');

/** A push key, made or changed. */
export function PushKeyForm({
  own,
  close,
  tell,
}: {
  own: PushKeyAnswer | null;
  close: () => void;
  tell: (told: Told) => void;
}) {
  const [typed, setTyped] = useState(() => asTyped(own));
  const [problems, setProblems] = useState<Record<string, string>>({});
  const [save, saving] = useSavePushKeyMutation();
  const [remove, removing] = useRemovePushKeyMutation();
  const error = saving.error ?? removing.error;
  const failure = error ? asFailure(error) : null;
  const submit = async () => {
    const read = readTyped(typed);
    setProblems(read.problems);
    if (read.wish === null) return;
    const done = await save(read.wish);
    if (!done.data) return;
    if (done.data.made) tell(done.data.made);
    close();
  };
  return (
    <FormAside
      label={own ? `push key ${own.key}` : 'make a push key'}
      title={own ? `Push key ${own.key}` : 'Make a push key'}
      width="narrow"
    >
      <form
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        <PushKeyFields
          fresh={own === null}
          typed={typed}
          setTyped={setTyped}
          problem={(field) => problems[field] ?? problemOf(failure, field)}
        />
        <FormFailure error={error} />
        <div className="flex gap-2">
          <button type="submit" className="button" disabled={saving.isLoading}>
            {own ? 'Save' : 'Make it'}
          </button>
          <button type="button" className="button-plain px-2" onClick={close}>
            cancel
          </button>
          {own && (
            <button
              type="button"
              className="button ml-auto text-critical"
              disabled={removing.isLoading}
              onClick={async () => {
                const done = await remove(own.key);
                if (!done.error) close();
              }}
            >
              remove; what came is kept
            </button>
          )}
        </div>
      </form>
    </FormAside>
  );
}

function PushKeyFields({
  fresh,
  typed,
  setTyped,
  problem,
}: {
  fresh: boolean;
  typed: Typed;
  setTyped: (typed: Typed) => void;
  problem: (field: string) => string | undefined;
}) {
  const { data: sources } = useSourcesQuery();
  const text = (field: Exclude<keyof Typed, 'off'>) => ({
    id: `push-${field}`,
    value: typed[field],
    onChange: ({ target }: { target: { value: string } }) => setTyped({ ...typed, [field]: target.value }),
  });
  return (
    <>
      <Field id="push-key" label="Name" error={problem('key')}>
        <input className="field" disabled={!fresh} {...text('key')} />
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Field id="push-team" label="Of team (its key)" error={problem('team')}>
          <input className="field" placeholder="nobody’s" {...text('team')} />
        </Field>
        <Field id="push-intervalSeconds" label="Expected every, seconds" error={problem('intervalSeconds')}>
          <input className="field" inputMode="numeric" {...text('intervalSeconds')} />
        </Field>
        <Field id="push-cluster" label="Speaks of cluster" error={problem('cluster')}>
          <select className="field" {...text('cluster')}>
            <option value="">none</option>
            {sources?.connections.map(({ name }) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </Field>
        <Field id="push-namespace" label="and of its namespace" error={problem('namespace')}>
          <input className="field" {...text('namespace')} />
        </Field>
      </div>
      <Field id="push-labels" label="Attach labels, one a line" error={problem('labels')}>
        <textarea className="field h-16 font-mono text-xs" placeholder="quay: north" {...text('labels')} />
      </Field>
      <Field id="push-drop" label="Leave out, one a line" error={problem('drop')}>
        <textarea className="field h-16 font-mono text-xs" placeholder="debug_*" {...text('drop')} />
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Field id="push-oneIn" label="Of traces keep one in" error={problem('oneIn')}>
          <input className="field" inputMode="numeric" placeholder="all" {...text('oneIn')} />
        </Field>
        <Field id="push-slowSeconds" label="and all that took, seconds" error={problem('slowSeconds')}>
          <input
            className="field"
            inputMode="decimal"
            placeholder="all that failed are kept too"
            {...text('slowSeconds')}
          />
        </Field>
      </div>
      <Field id="push-origins" label="From pages in browsers of, one address a line" error={problem('origins')}>
        <textarea
          className="field h-12 font-mono text-xs"
          placeholder="nobody’s: only programs push"
          {...text('origins')}
        />
      </Field>
      <label className="mb-3 flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          checked={typed.off}
          onChange={({ target }) => setTyped({ ...typed, off: target.checked })}
        />
        off: what is pushed with it is refused
      </label>
    </>
  );
}
