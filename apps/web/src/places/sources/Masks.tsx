import { MaskDocument, type MaskPreview, type MasksAnswer } from '@zetopsis/contract';
import { formatCount } from '@zetopsis/core/format';
import { useState } from 'react';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { Field, problemOf } from '../../forms/Field.tsx';
import { FormAside } from '../../forms/FormAside.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { RemoveButton } from '../../forms/RemoveButton.tsx';
import { TeamField } from '../../forms/TeamField.tsx';
import { asFailure } from '../../state/failure.ts';
import {
  useAddMaskMutation,
  useMasksQuery,
  usePreviewMaskMutation,
  useRemoveMaskMutation,
  useSaveMaskMutation,
} from '../../state/masksApi.ts';

type Own = MasksAnswer['masks'][number];
const ALWAYS = [
  ['‹card›', 'card numbers: 13 to 19 digits, grouped too, whose check digit fits'],
  [
    '‹token›',
    'bearer and three-part tokens, basic credentials, and whatever stands behind a name that is, or ends in, key, secret, token, password or authorization',
  ],
  ['‹key›', 'private key blocks'],
  ['‹mail›', 'email addresses'],
] as const;

/** What is taken out of log lines: what always is, and own patterns. */
export function Masks() {
  const { data, error, refetch } = useMasksQuery();
  const [side, setSide] = useState<{ own: Own | null } | null>(null);
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={4} height={40} />}
      </div>
    );
  const mayMake = data.everybody || data.teams.length > 0;
  return (
    <div className="flex h-full min-h-0">
      <div className="min-w-0 flex-1 overflow-auto px-5 py-4">
        <h2 className="section-title mb-1">Always masked</h2>
        <p className="mb-2 max-w-3xl text-sm text-soft">
          In the text of a line, in names and values of its fields, also behind percent signs and JSON escapes, before
          anything of it is kept. Nothing of what is masked is kept anywhere; how often it happened is counted at the
          push key.
        </p>
        <dl className="mb-5 grid max-w-3xl grid-cols-[90px_1fr] gap-y-1 text-sm">
          {ALWAYS.map(([sign, words]) => (
            <div key={sign} className="contents">
              <dt className="font-mono">{sign}</dt>
              <dd>{words}</dd>
            </div>
          ))}
        </dl>
        <div className="mb-2 flex max-w-3xl items-center justify-between">
          <h2 className="section-title">Own patterns</h2>
          {mayMake && (
            <button type="button" className="button" onClick={() => setSide({ own: null })}>
              add a pattern
            </button>
          )}
        </div>
        {data.masks.length === 0 && (
          <p className="max-w-3xl text-sm text-soft">
            There are none.{' '}
            {mayMake ? '' : 'Members of a team add them for its lines, administrators for everybody’s. '}A pattern is
            tried on lines of the last hour first: what is masked cannot be taken back.
          </p>
        )}
        {data.masks.map((own) => (
          <article
            key={own.key}
            aria-label={own.document.title}
            className="mb-2 max-w-3xl border border-line bg-sheet px-4 py-2"
          >
            <p className="flex items-baseline gap-3">
              <b>{own.document.title}</b>
              <span className="text-sm text-soft">
                {own.owner === null ? 'in everybody’s lines' : `in lines of ${own.owner}`}
              </span>
              {own.mayChange && (
                <span className="ml-auto flex gap-3 text-sm">
                  <button type="button" className="button-plain" onClick={() => setSide({ own })}>
                    change it
                  </button>
                  <Remove own={own} removed={() => setSide(null)} />
                </span>
              )}
            </p>
            <p className="font-mono text-sm break-all">{own.document.pattern}</p>
            {own.document.note !== '' && <p className="text-sm whitespace-pre-wrap text-soft">{own.document.note}</p>}
          </article>
        ))}
      </div>
      {side && <MaskForm key={side.own?.key ?? 'new'} own={side.own} answer={data} close={() => setSide(null)} />}
    </div>
  );
}

function Remove({ own, removed }: { own: Own; removed: () => void }) {
  const [remove, { error, isLoading }] = useRemoveMaskMutation();
  return (
    <RemoveButton
      title={`Remove “${own.document.title}”?`}
      text="Lines that come from now on are kept with what it masked. What it has masked stays masked."
      remove={() => remove(own.key)}
      error={error}
      busy={isLoading}
      removed={removed}
    />
  );
}

function MaskForm({ own, answer, close }: { own: Own | null; answer: MasksAnswer; close: () => void }) {
  const [title, setTitle] = useState(own?.document.title ?? '');
  const [pattern, setPattern] = useState(own?.document.pattern ?? '');
  const [note, setNote] = useState(own?.document.note ?? '');
  const [team, setTeam] = useState(
    own ? (own.document.team ?? '') : answer.everybody ? '' : (answer.teams[0]?.key ?? ''),
  );
  const [preview, previewing] = usePreviewMaskMutation();
  const [add, adding] = useAddMaskMutation();
  const [save, saving] = useSaveMaskMutation();
  const [typedWrong, setTypedWrong] = useState<Record<string, string>>({});
  const error = previewing.error ?? adding.error ?? saving.error;
  const failure = error === undefined ? null : asFailure(error);
  const problem = (field: string) => typedWrong[field] ?? problemOf(failure, field);
  /** As a document; null where something is wrong with it, which is said at its field. */
  const typed = (): MaskDocument | null => {
    const read = MaskDocument.safeParse({ title, pattern, note, team: team === '' ? null : team });
    setTypedWrong(
      Object.fromEntries((read.error?.issues ?? []).map(({ path, message }) => [String(path[0]), message])),
    );
    return read.success ? read.data : null;
  };
  const keep = async () => {
    const document = typed();
    if (document === null) return;
    const done = own === null ? await add(document) : await save({ key: own.key, document });
    if (!done.error) close();
  };
  return (
    <FormAside label="mask" title={own === null ? 'Mask something in log lines' : own.document.title} width="wide">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <Field id="mask-title" label="What it is" error={problem('title')}>
          <input
            id="mask-title"
            className="field"
            value={title}
            maxLength={120}
            onChange={({ target }) => setTitle(target.value)}
          />
        </Field>
        <Field id="mask-pattern" label="Pattern" error={problem('pattern')}>
          <input
            id="mask-pattern"
            className="field font-mono"
            value={pattern}
            maxLength={500}
            spellCheck={false}
            placeholder="passport [A-Z][0-9]{7}"
            onChange={({ target }) => setPattern(target.value)}
          />
        </Field>
        <TeamField
          id="mask-team"
          label="In whose lines"
          error={problem('team')}
          value={team}
          set={setTeam}
          teams={answer.teams}
          nobody={answer.everybody ? 'everybody’s' : null}
        />
        <Field id="mask-note" label="Note" error={problem('note')}>
          <textarea
            id="mask-note"
            className="field"
            rows={2}
            value={note}
            maxLength={2000}
            onChange={({ target }) => setNote(target.value)}
          />
        </Field>
        <FormFailure error={error} />
        <div className="mt-2 flex gap-3">
          <button
            type="button"
            className="button"
            disabled={previewing.isLoading}
            onClick={() => {
              const document = typed();
              if (document) void preview(document);
            }}
          >
            See what it would mask
          </button>
          <button type="submit" className="button" disabled={adding.isLoading || saving.isLoading}>
            {own === null ? 'Mask it from now on' : 'Change it'}
          </button>
          <button type="button" className="button-plain" onClick={close}>
            cancel
          </button>
        </div>
      </form>
      {previewing.data && <Preview preview={previewing.data} />}
    </FormAside>
  );
}

function Preview({ preview: { looked, masked, examples } }: { preview: MaskPreview }) {
  return (
    <section aria-label="what it would mask" className="mt-4 border-t border-hair pt-2">
      <p className="text-sm">
        {looked === 0
          ? 'No line came within the last hour that it could be tried on.'
          : masked === 0
            ? `Nothing, in ${formatCount(looked, 'line')} of the last hour.`
            : `${masked} of ${formatCount(looked, 'line')} of the last hour would have been changed:`}
      </p>
      <ol className="mt-1 space-y-1.5">
        {examples.map(({ before, after }) => (
          <li key={before} className="border-l border-structure pl-2 font-mono text-xs break-all">
            <span className="block text-soft">{before}</span>
            <span className="block">{after}</span>
          </li>
        ))}
      </ol>
    </section>
  );
}
