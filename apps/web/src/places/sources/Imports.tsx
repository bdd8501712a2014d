import type { ImportAnswer, SourcesAnswer } from '@zetopsis/contract';
import { formatClock, formatCount } from '@zetopsis/core/format';
import { useState } from 'react';
import { FailureNote } from '../../drawing/StateNote.tsx';
import { TableHead } from '../../drawing/TableHead.tsx';
import { Field } from '../../forms/Field.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useCancelImportMutation, useImportsQuery, useTakeImportMutation } from '../../state/importsApi.ts';
import { importWords } from './sourcesModel.ts';

/** Bringing in the past; shown to those who administer a cluster. */
export function Imports({ data }: { data: SourcesAnswer }) {
  const { data: answer, error, refetch } = useImportsQuery();
  const [open, setOpen] = useState(false);
  const clusters = data.connections.filter(({ may }) => may === 'administer').map(({ name }) => name);
  if (clusters.length === 0) return null;
  return (
    <section aria-label="history imports" className="mb-6">
      <div className="mb-1 flex items-center justify-between">
        <div className="flex items-baseline gap-3">
          <h2 className="section-title">History imports</h2>
          <p className="text-sm text-soft">samples and states of objects from before Zetopsis read them</p>
        </div>
        <button type="button" className="button" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'close' : 'import a file'}
        </button>
      </div>
      {open && <ImportForm data={data} clusters={clusters} done={() => setOpen(false)} />}
      {error && <FailureNote error={error} retry={() => void refetch()} />}
      {answer?.imports.length === 0 && <p className="text-sm text-soft">Nothing has been imported.</p>}
      {answer && answer.imports.length > 0 && <ImportTable imports={answer.imports} />}
    </section>
  );
}

const SHOWN = 8;

function ImportTable({ imports }: { imports: readonly ImportAnswer[] }) {
  const now = useNow();
  const [all, setAll] = useState(false);
  const [cancel, { error }] = useCancelImportMutation();
  return (
    <>
      <table className="w-full text-sm">
        <TableHead of={['what', 'begun', 'for', 'state', 'taken', '']} />
        <tbody>
          {imports.slice(0, all ? imports.length : SHOWN).map((one) => (
            <tr key={one.id} className="border-b border-hair align-baseline">
              <td className="py-1 pr-3">
                <span className="text-soft">{one.cluster} › </span>
                <b className="font-semibold">{one.about}</b>
              </td>
              <td className="py-1 pr-3 whitespace-nowrap">{formatClock(one.startedAt, now)}</td>
              <td className="py-1 pr-3">{one.by}</td>
              <td className="py-1 pr-3 whitespace-nowrap">
                {one.state}
                {one.state === 'running' && one.parts > 1 && (
                  <progress
                    className="ml-2 h-2 w-24 align-middle"
                    aria-label={`import ${one.id}`}
                    max={one.parts}
                    value={one.partsDone}
                  />
                )}
                {one.state === 'running' && one.parts > 1 && ` ${one.partsDone} of ${one.parts}`}
              </td>
              <td className="py-1 pr-3">
                {importWords(one)}
                {one.problem && <p className="max-w-md font-semibold">{one.problem}</p>}
              </td>
              <td className="py-1 text-right">
                {one.endedAt === null && (
                  <button
                    type="button"
                    className="button-plain"
                    aria-label={`cancel import ${one.id}`}
                    onClick={() => void cancel(one.id)}
                  >
                    cancel
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <FormFailure error={error} />
      {imports.length > SHOWN && !all && (
        <button type="button" className="button-plain mt-1 text-sm" onClick={() => setAll(true)}>
          {formatCount(imports.length - SHOWN, 'older one')}
        </button>
      )}
    </>
  );
}

function ImportForm({ data, clusters, done }: { data: SourcesAnswer; clusters: readonly string[]; done: () => void }) {
  const [take, { error, isLoading }] = useTakeImportMutation();
  const [cluster, setCluster] = useState(clusters[0] ?? '');
  const [what, setWhat] = useState<'samples' | 'states of objects'>('samples');
  const nodes = data.endpoints.filter(
    (one) => one.kind === 'node' && one.connection === cluster && one.state !== 'retired',
  );
  const [chosen, setChosen] = useState('');
  const [file, setFile] = useState<File | null>(null);
  const [missing, setMissing] = useState(false);
  const node = nodes.some((one) => one.name === chosen) ? chosen : (nodes[0]?.name ?? '');
  const send = async () => {
    setMissing(file === null);
    if (file === null) return;
    const answer = await take({ cluster, what, ...(what === 'samples' ? { node } : {}), file });
    if (!('error' in answer)) done();
  };
  return (
    <form
      noValidate
      className="mb-3 border border-line bg-sheet px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault();
        void send();
      }}
    >
      <div className="grid grid-cols-4 gap-4">
        <Field id="import-cluster" label="Cluster">
          <select
            id="import-cluster"
            className="field"
            value={cluster}
            onChange={(event) => setCluster(event.target.value)}
          >
            {clusters.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </Field>
        <Field id="import-what" label="What">
          <select
            id="import-what"
            className="field"
            value={what}
            onChange={(event) => setWhat(event.target.value === 'samples' ? 'samples' : 'states of objects')}
          >
            <option>samples</option>
            <option>states of objects</option>
          </select>
        </Field>
        {what === 'samples' && (
          <Field id="import-node" label="Endpoint of the node">
            <select id="import-node" className="field" value={node} onChange={(event) => setChosen(event.target.value)}>
              {nodes.map((one) => (
                <option key={one.id}>{one.name}</option>
              ))}
            </select>
          </Field>
        )}
        <Field id="import-file" label="File" error={missing ? 'choose a file' : undefined}>
          <input
            id="import-file"
            type="file"
            className="field"
            onChange={(event) => {
              setFile(event.target.files?.[0] ?? null);
              setMissing(false);
            }}
          />
        </Field>
      </div>
      <p className="mb-2 text-sm text-soft">
        {what === 'samples'
          ? 'OpenMetrics text whose every sample bears its time in seconds, with # EOF at its end. What was read already stays as it is.'
          : 'One line of JSON a state: {"kind": "pod", "from": "2026-11-01T10:00:00Z", "to": "2026-11-01T12:30:00Z", "object": …} with the object as the cluster’s API gave it. A state that overlaps a known one is left out.'}
      </p>
      <FormFailure error={error} />
      <button type="submit" className="button" disabled={isLoading}>
        {isLoading ? 'sending…' : 'import'}
      </button>
    </form>
  );
}
