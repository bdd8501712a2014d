import type { ChangeAnswer } from '@zetopsis/contract';
import { formatCount } from '@zetopsis/core/format';
import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { useView } from '../../frame/useView.ts';
import { useConfigurationFileQuery, useReadConfigurationMutation } from '../../state/configurationApi.ts';
import { Differences } from './Differences.tsx';

type As = 'yaml' | 'json';

/** Everything configured as one file: written out, changed, tried and read back. */
export function ConfigurationFile() {
  const [as, setAs] = useState<As>('yaml');
  const [text, setText] = useState<string | null>(null);
  const { data, error, refetch } = useConfigurationFileQuery(as);
  const [read, reading] = useReadConfigurationMutation();
  const [answer, setAnswer] = useState<{ of: string; is: ChangeAnswer } | null>(null);
  const area = useRef<HTMLTextAreaElement>(null);
  const shown = text ?? data?.text ?? '';
  /** Chooses a line of the text and brings it into view. */
  const show = (line: number) => {
    const box = area.current;
    if (!box) return;
    const lines = shown.split('\n');
    const from = lines.slice(0, line - 1).reduce((sum, one) => sum + one.length + 1, 0);
    box.focus();
    box.setSelectionRange(from, from + (lines[line - 1]?.length ?? 0));
    box.scrollTop = (box.scrollHeight / Math.max(1, lines.length)) * Math.max(0, line - 6);
  };
  const send = async (tryOnly: boolean) => {
    const { data: is } = await read({ text: shown, tryOnly });
    if (is) setAnswer({ of: shown, is });
    if (is?.revision != null) setText(null);
  };
  const open = async (file: File | undefined) => {
    if (file) setText(await file.text());
  };
  const tried =
    answer !== null && answer.of === shown && answer.is.problems.length === 0 && answer.is.revision === null;
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-8">
      <section aria-label="configuration as a file" className="flex min-h-0 flex-col">
        <FileHead revision={data?.revision ?? null} shown={shown} changed={text !== null} as={as} setAs={setAs} />
        {!data &&
          (error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={10} height={28} />)}
        {data && (
          <textarea
            ref={area}
            wrap="off"
            aria-label="text of the file"
            className="field min-h-72 flex-1 resize-none font-mono text-xs leading-relaxed"
            spellCheck={false}
            value={shown}
            onChange={(event) => setText(event.target.value)}
          />
        )}
        <p className="mt-1 text-xs text-soft">
          Tokens, passwords and accounts are in no file. What the file leaves out of a section is removed; a section
          that is left out stays as it is.
        </p>
      </section>
      <section aria-label="reading it back">
        <div className="mb-2 flex flex-wrap items-center gap-3">
          <button
            type="button"
            className="button"
            disabled={!data || reading.isLoading}
            onClick={() => void send(true)}
          >
            try it
          </button>
          <button
            type="button"
            className="button"
            disabled={!tried || reading.isLoading}
            onClick={() => void send(false)}
          >
            apply it
          </button>
          <FileChoice open={open} />
          {text !== null && (
            <button type="button" className="button-plain" onClick={() => setText(null)}>
              drop my changes
            </button>
          )}
        </div>
        <p className="mb-3 text-sm text-soft">Trying says what would change and changes nothing.</p>
        <FailureText error={reading.error} className="mb-3" />
        {answer && (
          <Outcome answer={answer.is} show={show} stale={answer.of !== shown && answer.is.revision === null} />
        )}
      </section>
    </div>
  );
}

function FileHead({
  revision,
  shown,
  changed,
  as,
  setAs,
}: {
  /** Null before it was read. */
  revision: number | null;
  shown: string;
  changed: boolean;
  as: 'yaml' | 'json';
  setAs: (as: 'yaml' | 'json') => void;
}) {
  return (
    <div className="mb-2 flex flex-wrap items-baseline gap-3">
      <h2 className="section-title">Configuration as a file</h2>
      <p className="text-sm text-soft">
        {revision === null ? '' : `revision ${revision}${changed ? ', changed here' : ''}`}
      </p>
      <select
        aria-label="form of the file"
        className="field ml-auto w-24"
        value={as}
        disabled={changed}
        onChange={(event) => setAs(event.target.value === 'json' ? 'json' : 'yaml')}
      >
        <option value="yaml">YAML</option>
        <option value="json">JSON</option>
      </select>
      {revision !== null && (
        <a
          className="button"
          href={`data:application/octet-stream;charset=utf-8,${encodeURIComponent(shown)}`}
          download={`zetopsis-revision-${revision}.${as}`}
        >
          save as a file
        </a>
      )}
    </div>
  );
}

function FileChoice({ open }: { open: (file: File | undefined) => Promise<void> }) {
  return (
    <label className="button">
      <span>open a file</span>
      <input
        type="file"
        accept=".yaml,.yml,.json,application/yaml,application/json"
        className="sr-only"
        onChange={(event) => void open(event.target.files?.[0])}
      />
    </label>
  );
}

function Outcome({ answer, stale, show }: { answer: ChangeAnswer; stale: boolean; show: (line: number) => void }) {
  const { link } = useView();
  return (
    <div role="status" className={stale ? 'text-soft' : ''}>
      {stale && <p className="mb-2 text-sm">The text was changed since: try it again.</p>}
      {answer.problems.length > 0 && (
        <>
          <p className="mb-1 font-semibold">
            {formatCount(answer.problems.length, 'problem')}; nothing of it can be applied:
          </p>
          <ul className="text-sm">
            {answer.problems.map(({ line, column, path, text }) => (
              <li key={`${line} ${column} ${path} ${text}`} className="border-b border-hair py-1">
                {line === null ? (
                  <b className="font-semibold">{path}</b>
                ) : (
                  <button type="button" className="button-plain font-semibold" onClick={() => show(line)}>
                    line {line}
                    {column !== null && `, column ${column}`}
                  </button>
                )}
                {line !== null && path !== '' && <span className="text-soft"> {path}</span>}: {text}
              </li>
            ))}
          </ul>
        </>
      )}
      {answer.problems.length === 0 && answer.revision !== null && (
        <p className="mb-2">
          Applied as{' '}
          <Link className="button-plain" to={`${link('/admin/revisions')}#${answer.revision}`}>
            revision {answer.revision}
          </Link>
          , where it can be taken back.
        </p>
      )}
      {answer.problems.length === 0 && answer.revision === null && (
        <p className="mb-2 font-semibold">
          {answer.differences.length === 0
            ? 'It would change nothing: everything is so already.'
            : `It would change ${formatCount(answer.differences.length, 'document')}:`}
        </p>
      )}
      <Differences differences={answer.differences} />
    </div>
  );
}
