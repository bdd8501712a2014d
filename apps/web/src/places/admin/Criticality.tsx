import { type CriticalityAnswer, CriticalityDocument, CriticalityIs } from '@zetopsis/contract';
import { type FormEvent, useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { Field } from '../../forms/Field.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { useCriticalityQuery, useSaveCriticalityMutation } from '../../state/criticalityApi.ts';
import { useSourcesQuery } from '../../state/endpointsApi.ts';

type Is = CriticalityAnswer['places'][number]['is'];
const MEANS: Record<Is, string> = {
  critical: 'whatever is lost there is critical, though others serve',
  ordinary: 'critical where nobody serves any more, else a warning',
  trial: 'never more than a warning',
};
type Place = CriticalityAnswer['places'][number];
/** Only what was said of it, as the document keeps it. */
const asSaid = ({ namespace, workload, is }: Pick<Place, 'namespace' | 'workload' | 'is'>) => ({
  namespace,
  workload,
  is,
});
const nameOf = ({ namespace, workload }: Pick<Place, 'namespace' | 'workload'>): string =>
  workload === null ? namespace : `${namespace} › ${workload.replace(':', ' ')}`;

/** How much hangs on what, cluster by cluster. The address's fragment names the cluster. */
export function Criticality() {
  const { hash, search, pathname } = useLocation();
  const navigate = useNavigate();
  const { data: sources, error: noSources, refetch: again } = useSourcesQuery();
  const names = sources?.connections.map(({ name }) => name) ?? [];
  const named = decodeURIComponent(hash.slice(1));
  const cluster = names.includes(named) ? named : names[0];
  const { data, error, refetch } = useCriticalityQuery(cluster ?? '', { skip: cluster === undefined });
  const failed = error ?? noSources;
  return (
    <section aria-label="criticality" className="max-w-4xl">
      <div className="mb-2 flex items-baseline gap-3">
        <h2 className="section-title">Criticality</h2>
        <p className="text-sm text-soft">
          how much hangs on a namespace or a workload; it weighs in severity and on Now
        </p>
        <select
          aria-label="cluster"
          className="field ml-auto w-44"
          value={cluster ?? ''}
          disabled={names.length === 0}
          onChange={(event) => void navigate({ pathname, search, hash: event.target.value }, { replace: true })}
        >
          {names.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </select>
      </div>
      {sources && names.length === 0 && <p className="text-soft">No cluster is connected yet.</p>}
      {failed && !data && <FailureNote error={failed} retry={() => void (noSources ? again() : refetch())} />}
      {!failed && !data && names.length > 0 && <RowSkeleton rows={5} height={32} />}
      {data && cluster !== undefined && <Places key={cluster} answer={data} />}
    </section>
  );
}

function Places({ answer }: { answer: CriticalityAnswer }) {
  const [save, { error, isLoading }] = useSaveCriticalityMutation();
  const said = answer.places.filter(({ byPerson }) => byPerson);
  const keep = (places: readonly Pick<Place, 'namespace' | 'workload' | 'is'>[], label = answer.label) =>
    save({
      cluster: answer.cluster,
      document: { label, places: places.map(asSaid) },
    });
  return (
    <>
      <ul className="mb-3 text-sm text-soft">
        {CriticalityIs.options.map((is) => (
          <li key={is}>
            <b className="text-ink">{is}</b>: {MEANS[is]}
          </li>
        ))}
      </ul>
      <FormFailure error={error} />
      {answer.places.length === 0 ? (
        <p className="mb-3 text-soft">
          Everything in {answer.cluster} is ordinary: nobody says otherwise, and nothing bears the label {answer.label}.
        </p>
      ) : (
        <table className="mb-4 w-full">
          <thead>
            <tr className="text-left text-sm text-soft">
              <th className="py-1 font-normal">place</th>
              <th className="py-1 font-normal">is</th>
              <th className="py-1 font-normal">because</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {answer.places.map((place) => (
              <tr key={`${nameOf(place)} ${place.byPerson}`} className="border-t border-hair align-baseline">
                <td className="py-1.5 pr-3">
                  {nameOf(place)}
                  {place.gone && <span className="text-sm text-soft"> · not there now</span>}
                </td>
                <td className="py-1.5 pr-3 font-semibold">{place.is}</td>
                <td className="py-1.5 pr-3 text-sm text-soft">{place.because}</td>
                <td className="py-1.5 text-right">
                  {place.byPerson && (
                    <button
                      type="button"
                      className="button-plain text-sm"
                      disabled={isLoading}
                      aria-label={`take back: ${nameOf(place)} is ${place.is}`}
                      onClick={() => void keep(said.filter((one) => one !== place))}
                    >
                      take back
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <div className="grid grid-cols-2 gap-8">
        <Say said={said} answer={answer} keep={keep} busy={isLoading} />
        <Label answer={answer} keep={(label) => keep(said, label)} busy={isLoading} />
      </div>
    </>
  );
}

/** Whether it was saved. */
type Keep = (places: readonly Pick<Place, 'namespace' | 'workload' | 'is'>[]) => Promise<{ error?: unknown }>;

function Say({
  answer,
  said,
  keep,
  busy,
}: {
  answer: CriticalityAnswer;
  said: readonly Place[];
  keep: Keep;
  busy: boolean;
}) {
  const [namespace, setNamespace] = useState('');
  const [workload, setWorkload] = useState('');
  const [is, setIs] = useState<Is>('critical');
  const [problems, setProblems] = useState<Readonly<Record<string, string>>>({});
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    const place = { namespace: namespace.trim(), workload: workload.trim() === '' ? null : workload.trim(), is };
    const others = said
      .filter((one) => one.namespace !== place.namespace || one.workload !== place.workload)
      .map(asSaid);
    const read = CriticalityDocument.safeParse({ label: answer.label, places: [...others, place] });
    if (!read.success) {
      setProblems(
        Object.fromEntries(
          read.error.issues.map(({ path, message }) => [
            String(path.at(-1)),
            path.at(-1) === 'namespace' && place.namespace === '' ? 'which namespace?' : message,
          ]),
        ),
      );
      return;
    }
    setProblems({});
    const done = await keep([...others, place]);
    if (done.error) return;
    setNamespace('');
    setWorkload('');
  };
  // what is wrong with the whole, and not with a field
  const elsewhere = Object.entries(problems).find(([field]) => !['namespace', 'workload', 'is'].includes(field))?.[1];
  return (
    <form aria-label="say it of a place" onSubmit={(event) => void submit(event)} noValidate>
      <h3 className="mb-2 font-semibold">Say it of a place</h3>
      <Field id="criticality-namespace" label="Namespace" error={problems['namespace']}>
        <input
          id="criticality-namespace"
          className="field"
          autoComplete="off"
          value={namespace}
          onChange={(event) => setNamespace(event.target.value)}
        />
      </Field>
      <Field id="criticality-workload" label="Workload (kind:name; empty: all of it)" error={problems['workload']}>
        <input
          id="criticality-workload"
          className="field"
          autoComplete="off"
          placeholder="deployment:web"
          value={workload}
          onChange={(event) => setWorkload(event.target.value)}
        />
      </Field>
      <Field id="criticality-is" label="Is">
        <select
          id="criticality-is"
          className="field"
          value={is}
          onChange={(event) => setIs(CriticalityIs.parse(event.target.value))}
        >
          {CriticalityIs.options.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      </Field>
      {elsewhere !== undefined && (
        <p role="alert" className="mb-2 text-sm text-critical">
          {elsewhere}
        </p>
      )}
      <button type="submit" className="button" disabled={busy}>
        Say so
      </button>
    </form>
  );
}

function Label({
  answer,
  keep,
  busy,
}: {
  answer: CriticalityAnswer;
  keep: (label: string) => Promise<{ error?: unknown }>;
  busy: boolean;
}) {
  const [label, setLabel] = useState(answer.label);
  const [problem, setProblem] = useState<string | undefined>();
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const read = CriticalityDocument.shape.label.safeParse(label);
    setProblem(read.success ? undefined : read.error.issues[0]?.message);
    if (read.success) void keep(read.data);
  };
  return (
    <form aria-label="the label that says it" onSubmit={submit} noValidate>
      <h3 className="mb-2 font-semibold">Or let a label say it</h3>
      <Field id="criticality-label" label="Label of namespaces and workloads" error={problem}>
        <input
          id="criticality-label"
          className="field"
          autoComplete="off"
          value={label}
          onChange={(event) => setLabel(event.target.value)}
        />
      </Field>
      <p className="mb-3 text-sm text-soft">
        Its value is critical, ordinary or trial. What a person says of a place comes before its label, and the workload
        before its namespace.
      </p>
      <button type="submit" className="button" disabled={busy || label === answer.label}>
        Use this label
      </button>
    </form>
  );
}
