import { PushDocument, type PushKeyAnswer, SourceKey } from '@zetopsis/contract';
import { formatClock, formatCount } from '@zetopsis/core/format';
import { MASKED_KINDS } from '@zetopsis/core/lines';
import { UNTIED } from '@zetopsis/core/origins';
import { useState } from 'react';
import { Copyable } from '../../drawing/Copyable.tsx';
import { FailureNote, RowSkeleton, StateNote } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { Field, problemOf } from '../../forms/Field.tsx';
import { FormAside } from '../../forms/FormAside.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useSourcesQuery } from '../../state/endpointsApi.ts';
import { asFailure } from '../../state/failure.ts';
import {
  useNewPushTokenMutation,
  usePushKeysQuery,
  useRemovePushKeyMutation,
  useSavePushKeyMutation,
} from '../../state/pushKeysApi.ts';
import { dropText, labelText, readDrops, readLabels } from './lists.ts';
import { pageCommand, senderSettings } from './wire-names.ts';

interface Told {
  readonly key: string;
  readonly token: string;
}

/** Keys with which programs push their figures. */
export function PushKeys() {
  const { data, error, refetch } = usePushKeysQuery(undefined, { pollingInterval: 10_000 });
  const [side, setSide] = useState<{ own: PushKeyAnswer | null } | null>(null);
  const [told, setTold] = useState<Told | null>(null);
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={4} height={60} />}
      </div>
    );
  const make = (
    <button type="button" className="button" onClick={() => setSide({ own: null })}>
      make a push key
    </button>
  );
  return (
    <div className="flex h-full min-h-0">
      <div className="min-w-0 flex-1 overflow-auto px-5 py-4">
        <div className="mb-2 flex items-center justify-between">
          <h2 className="section-title">Push keys</h2>
          {data.keys.length > 0 && make}
        </div>
        {told && (
          <section aria-label="the new token" className="mb-4 max-w-3xl border border-ink bg-sheet p-3">
            <p className="mb-2 font-semibold">The token of {told.key}. Take it now: it is not shown again.</p>
            <Copyable
              text={senderSettings(data.address, told.token)}
              label="for a program with the open telemetry SDK"
            />
            <div className="h-2" />
            <Copyable text={pageCommand(data.address, told.token)} label="for a script: a metrics page as text" />
            <button type="button" className="button-plain mt-2 text-sm" onClick={() => setTold(null)}>
              I have it
            </button>
          </section>
        )}
        {data.keys.length === 0 && (
          <StateNote title="Nothing can be pushed yet">
            <p>
              A program that no page can be read from, or that ends before it is asked, sends its figures itself: by the
              open telemetry protocol over HTTP, or as a metrics page. A key says whose they are.
            </p>
            {make}
          </StateNote>
        )}
        {data.keys.map((own) => (
          <KeyRow key={own.key} own={own} change={() => setSide({ own })} tell={setTold} />
        ))}
      </div>
      {side && <PushKeyForm key={side.own?.key ?? 'new'} own={side.own} close={() => setSide(null)} tell={setTold} />}
    </div>
  );
}

function KeyRow({ own, change, tell }: { own: PushKeyAnswer; change: () => void; tell: (told: Told) => void }) {
  const now = useNow(10_000);
  const [renew, { error }] = useNewPushTokenMutation();
  const { document, senders, late, lastUsedAt, tokenAt } = own;
  return (
    <article aria-label={own.key} className="mb-2 border border-line bg-sheet px-4 py-3">
      <div className="flex items-baseline gap-3">
        <h3 className="text-lg">{own.key}</h3>
        {document.use === 'off' && <b className="text-sm">off</b>}
        <span className="text-sm text-soft">
          {formatCount(senders, 'sender')}
          {late > 0 && `, ${late} late`}
          {lastUsedAt !== null && `; last used ${formatClock(lastUsedAt, now, { seconds: true })}`}
        </span>
        <button
          type="button"
          className="button-plain ml-auto text-sm"
          onClick={() => void renew(own.key).then(({ data }) => data && tell(data))}
        >
          new token
        </button>
        <button type="button" className="button-plain text-sm" onClick={change}>
          look or change
        </button>
      </div>
      {tokenAt === null && (
        <p className="mt-1">
          <b>It has no token: nothing can be pushed with it.</b>{' '}
          <span className="text-soft">→ Make one, and give it to the program.</span>
        </p>
      )}
      {own.refused > 0 && (
        <p className="mt-1 text-sm">
          <b>{own.refused} points or lines refused since the start:</b> {countedWords(own.refusals)}
        </p>
      )}
      {own.lines > 0 && (
        <p className="mt-1 text-sm">
          <b>{formatCount(own.lines, 'log line')} since the start</b>
          {own.again > 0 && `, ${formatCount(own.again, 'push', 'pushes')} that had come before, counted once`}
          {maskedWords(own.masked) !== '' && `; masked in them: ${maskedWords(own.masked)}`}
        </p>
      )}
      {own.untied.map(({ why, count }) => (
        <p key={why} className="mt-1 text-sm">
          <b>{formatCount(count, 'line')} at no pod:</b> {UNTIED[why]}
        </p>
      ))}
      <p className="mt-1 text-sm text-soft">{keyWords(document)}</p>
      <FailureText error={error} className="mt-1" />
    </article>
  );
}
const countedWords = (all: PushKeyAnswer['refusals']): string =>
  all.map(({ why, count }) => (all.length === 1 ? why : `${why} (${count})`)).join('; ');
const MASKED_WORDS = {
  card: { one: 'card number', many: 'card numbers' },
  token: { one: 'token or password', many: 'tokens and passwords' },
  key: { one: 'private key', many: 'private keys' },
  mail: { one: 'email address', many: 'email addresses' },
  own: { one: 'text by an own pattern', many: 'texts by own patterns' },
} as const;
const maskedWords = (masked: PushKeyAnswer['masked']): string =>
  MASKED_KINDS.filter((kind) => masked[kind] > 0)
    .map((kind) => formatCount(masked[kind], MASKED_WORDS[kind].one, MASKED_WORDS[kind].many))
    .join(', ');
function keyWords({ team, cluster, namespace, intervalSeconds, labels }: PushDocument): string {
  const attached = Object.entries(labels).map(([name, value]) => `${name} ${value}`);
  return [
    team === null ? null : `of team ${team}`,
    cluster === null ? 'speaks of no cluster' : `speaks of ${[cluster, namespace].filter(Boolean).join(' › ')}`,
    `expected every ${intervalSeconds} s`,
    attached.length > 0 ? `with ${attached.join(', ')}` : null,
  ]
    .filter((part) => part !== null)
    .join(', ');
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
    use: typed.off ? 'off' : 'on',
  });
  const problems: Record<string, string> = {
    ...(labels.problem ? { labels: labels.problem } : {}),
    ...(drop.problem ? { drop: drop.problem } : {}),
    ...(key.success ? {} : { key: key.error.issues[0]?.message ?? 'a bad name' }),
  };
  for (const issue of document.error?.issues ?? []) problems[String(issue.path[0])] ??= issue.message;
  const fine = document.success && key.success && Object.keys(problems).length === 0;
  return { problems, wish: fine ? { key: key.data, document: document.data } : null };
}

function PushKeyForm({
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
