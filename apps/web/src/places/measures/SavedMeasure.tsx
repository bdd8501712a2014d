import type { SavedMeasuresAnswer } from '@zetopsis/contract';
import { formatClock } from '@zetopsis/core/format';
import { useState } from 'react';
import { LineDifference } from '../../drawing/LineDifference.tsx';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { Field, problemOf } from '../../forms/Field.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { RemoveButton } from '../../forms/RemoveButton.tsx';
import { TeamField } from '../../forms/TeamField.tsx';
import { useNow } from '../../frame/useNow.ts';
import { asFailure } from '../../state/failure.ts';
import {
  useChangeMeasureMutation,
  useKeepMeasureMutation,
  useMeasureVersionsQuery,
  useRemoveMeasureMutation,
} from '../../state/measuresApi.ts';

export type Saved = SavedMeasuresAnswer['measures'][number];

interface Props {
  readonly saved: SavedMeasuresAnswer;
  /** What is looked at; null: a text that is kept nowhere. */
  readonly own: Saved | null;
  /** The text as it stands in the editor. */
  readonly text: string;
  readonly kept: (key: string, text: string) => void;
  readonly removed: () => void;
}

/** The title block of a measure: what it is called, whose it is, who reads it; or the way to keep it. */
export function SavedMeasure({ saved, own, text, kept, removed }: Props) {
  const [open, setOpen] = useState<'form' | 'versions' | null>(null);
  const mayKeep = saved.everybody || saved.teams.length > 0;
  return (
    <div className="mt-2 border border-structure bg-sheet px-3 py-1.5 text-sm">
      <p className="flex flex-wrap items-baseline gap-x-4">
        {own === null ? (
          <span className="text-soft">
            {mayKeep
              ? 'This text is kept nowhere yet.'
              : 'Measures are kept by members of a team; you are in none. The address holds this one.'}
          </span>
        ) : (
          <>
            <b>{own.title}</b>
            <span className="text-soft">
              {own.team === null ? 'everybody’s' : (own.owner ?? own.team)}
              {own.unit !== null && own.unit !== '' && ` · in ${own.unit}`}
              {own.readBy.length > 0 && ` · read by ${own.readBy.join(', ')}`}
            </span>
          </>
        )}
        <span className="ml-auto flex gap-3">
          {own !== null && (
            <button
              type="button"
              className="button-plain"
              aria-expanded={open === 'versions'}
              onClick={() => setOpen(open === 'versions' ? null : 'versions')}
            >
              versions
            </button>
          )}
          {(own === null ? mayKeep : own.mayChange) && (
            <button
              type="button"
              className="button-plain"
              aria-expanded={open === 'form'}
              disabled={text.trim() === ''}
              onClick={() => setOpen(open === 'form' ? null : 'form')}
            >
              {own === null ? 'keep it' : 'change it'}
            </button>
          )}
          {own?.mayChange && <Remove own={own} removed={removed} />}
        </span>
      </p>
      {own !== null && own.note !== '' && <p className="whitespace-pre-wrap text-soft">{own.note}</p>}
      {own?.problem && <p className="text-critical">{own.problem}</p>}
      {open === 'form' && (
        <KeepForm
          saved={saved}
          own={own}
          text={text}
          kept={(key) => {
            setOpen(null);
            kept(key, text);
          }}
        />
      )}
      {open === 'versions' && own !== null && <Versions of={own} take={(old) => kept(own.key, old)} />}
    </div>
  );
}

function Remove({ own, removed }: { own: Saved; removed: () => void }) {
  const [remove, { error, isLoading }] = useRemoveMeasureMutation();
  return (
    <RemoveButton
      title={`Remove “${own.title}”?`}
      text="Its versions stay with the configuration, where it can be undone."
      remove={() => remove(own.key)}
      error={error}
      busy={isLoading}
      removed={removed}
    />
  );
}

function KeepForm({ saved, own, text, kept }: Pick<Props, 'saved' | 'own' | 'text'> & { kept: (key: string) => void }) {
  const [title, setTitle] = useState(own?.title ?? '');
  const [note, setNote] = useState(own?.note ?? '');
  const [team, setTeam] = useState(own === null ? (saved.teams[0]?.key ?? '') : (own.team ?? ''));
  const [keep, keeping] = useKeepMeasureMutation();
  const [change, changing] = useChangeMeasureMutation();
  const error = keeping.error ?? changing.error;
  const failure = error === undefined ? null : asFailure(error);
  const save = async () => {
    const document = { title, note, team: team === '' ? null : team, text };
    if (own !== null) {
      const done = await change({ key: own.key, document });
      if (!done.error) kept(own.key);
      return;
    }
    const done = await keep(document);
    if (!done.error) kept(done.data.key);
  };
  return (
    <form
      aria-label={own === null ? 'keep the measure' : 'change the measure'}
      className="mt-2 max-w-xl border-t border-hair pt-2"
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <Field id="measure-title" label="Title" error={problemOf(failure, 'title')}>
        <input
          id="measure-title"
          className="field"
          value={title}
          maxLength={100}
          onChange={({ target }) => setTitle(target.value)}
        />
      </Field>
      <Field id="measure-note" label="Note (what it tells, when to look at it)" error={problemOf(failure, 'note')}>
        <textarea
          id="measure-note"
          className="field"
          rows={2}
          value={note}
          maxLength={2000}
          onChange={({ target }) => setNote(target.value)}
        />
      </Field>
      <TeamField
        id="measure-team"
        label="Whose it is"
        error={problemOf(failure, 'team')}
        value={team}
        set={setTeam}
        teams={saved.teams}
        nobody={saved.everybody ? 'everybody’s' : null}
      />
      {problemOf(failure, 'text') && (
        <p role="alert" className="mb-2 text-critical">
          {problemOf(failure, 'text')}
        </p>
      )}
      <FormFailure error={error} />
      <button
        type="submit"
        className="button mb-1"
        disabled={title.trim() === '' || keeping.isLoading || changing.isLoading}
      >
        {own === null ? 'Keep it with the text above' : 'Change it to the text above'}
      </button>
    </form>
  );
}

function Versions({ of, take }: { of: Saved; take: (text: string) => void }) {
  const now = useNow(60_000);
  const { data, error, refetch } = useMeasureVersionsQuery(of.key);
  if (error) return <FailureNote error={error} retry={() => void refetch()} />;
  if (!data) return <RowSkeleton rows={3} height={40} />;
  return (
    <ol className="mt-2 border-t border-hair pt-1" aria-label="versions of the measure">
      {data.versions.map(({ revision, at, by, was, document, lines }) => (
        <li key={revision} className="border-b border-hair py-1">
          <p className="flex items-baseline gap-3 text-xs">
            <b>{formatClock(at, now, { seconds: true })}</b> {by} · {was} · revision {revision}
            {textIn(document) !== null && textIn(document) !== of.text && (
              <button type="button" className="button-plain ml-auto" onClick={() => take(textIn(document)!)}>
                take this text up again
              </button>
            )}
          </p>
          <LineDifference lines={lines} fresh={was === 'added'} className="max-h-48" />
        </li>
      ))}
    </ol>
  );
}
const textIn = (document: unknown): string | null =>
  typeof document === 'object' && document !== null && 'text' in document && typeof document.text === 'string'
    ? document.text
    : null;
