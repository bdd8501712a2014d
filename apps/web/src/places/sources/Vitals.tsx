import { MACHINES, type VitalsAnswer, type VitalsDocument } from '@zetopsis/contract';
import { formatBytes, formatCount, formatDuration, formatNumber } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { useSourcesQuery } from '../../state/endpointsApi.ts';
import { useSaveVitalsMutation, useTryVitalsMutation, useVitalsQuery } from '../../state/vitalsApi.ts';

type VitalState = VitalsAnswer['vitals'][number];
type Mapping = VitalState['mapping'];
const HEADS = ['vital', 'metric', 'its labels', 'times', 'found', 'such as'];

/** How the clusters call what every cluster has. */
export function Vitals() {
  const { data: sources } = useSourcesQuery();
  const [parameters, setParameters] = useSearchParams();
  const names = sources ? [...sources.connections.map(({ name }) => name), MACHINES] : [];
  const asked = parameters.get('vitals');
  const cluster = asked !== null && names.includes(asked) ? asked : names[0];
  return (
    <div className="h-full overflow-auto px-5 py-4">
      <div className="mb-2 flex items-center gap-3">
        <h2 className="section-title">Vitals</h2>
        {cluster !== undefined && (
          <select
            aria-label="whose vitals"
            className="field max-w-44"
            value={cluster}
            onChange={({ target }) =>
              setParameters((before) => {
                before.set('vitals', target.value);
                return before;
              })
            }
          >
            {names.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        )}
        <p className="text-sm text-soft">
          {cluster === MACHINES
            ? 'What machines outside clusters use, under one name or another. A mapping counts where our own names are not served.'
            : 'What every cluster has under one name or another. Map those that this cluster calls otherwise.'}
        </p>
      </div>
      {cluster !== undefined && <OfCluster key={cluster} cluster={cluster} />}
    </div>
  );
}

function OfCluster({ cluster }: { cluster: string }) {
  const { data, error, refetch } = useVitalsQuery(cluster, { refetchOnMountOrArgChange: true });
  const [tryIt, trying] = useTryVitalsMutation();
  const [save, saving] = useSaveVitalsMutation();
  /** What is being edited; null: as it is kept. */
  const [draft, setDraft] = useState<VitalsDocument['vitals'] | null>(null);
  if (!data)
    return error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={12} height={34} />;
  const shown = draft !== null && trying.data ? trying.data : data;
  const kept = Object.fromEntries(
    data.vitals.filter(({ mapped }) => mapped).map(({ vital, mapping }) => [vital, mapping]),
  );
  const change = (next: VitalsDocument['vitals']) => {
    setDraft(next);
    void tryIt({ cluster, document: { vitals: next } });
  };
  const put = (vital: string, mapping: Mapping | null) => {
    const { [vital]: _, ...rest } = draft ?? kept;
    change(mapping === null ? rest : { ...rest, [vital]: mapping });
  };
  return (
    <>
      <Proposals
        whose={cluster}
        open={data.proposals.filter(({ vital }) => draft?.[vital] === undefined)}
        put={put}
        putAll={(all) => change({ ...(draft ?? kept), ...all })}
      />
      <table className="w-full text-sm">
        <thead>
          <tr className="border-b border-structure text-left text-xs text-soft">
            {HEADS.map((head) => (
              <th key={head} className="py-1 pr-3 font-medium">
                {head}
              </th>
            ))}
            <th />
          </tr>
        </thead>
        <tbody>
          {shown.vitals.map((state) => (
            <Row
              key={state.vital}
              state={state}
              metrics={data.metrics}
              edited={draft !== null}
              put={(mapping) => put(state.vital, mapping)}
            />
          ))}
        </tbody>
      </table>
      <FormFailure error={saving.error ?? trying.error} />
      {draft !== null && (
        <Saving
          busy={saving.isLoading}
          looking={trying.isLoading}
          leave={() => setDraft(null)}
          save={async () => {
            const done = await save({ cluster, document: { vitals: draft } });
            if (!done.error) setDraft(null);
          }}
        />
      )}
    </>
  );
}

function Proposals({
  whose,
  open,
  put,
  putAll,
}: {
  whose: string;
  open: VitalsAnswer['proposals'];
  put: (vital: string, mapping: Mapping) => void;
  putAll: (all: VitalsDocument['vitals']) => void;
}) {
  if (open.length === 0) return null;
  return (
    <section aria-label="proposals" className="mb-4 border border-line bg-sheet px-4 py-3">
      <div className="mb-1 flex items-center gap-3">
        <h3>Proposed from what {whose === MACHINES ? 'they serve' : `${whose} serves`}</h3>
        <button
          type="button"
          className="button ml-auto"
          onClick={() => putAll(Object.fromEntries(open.map(({ vital, mapping }) => [vital, mapping])))}
        >
          try {open.length === 1 ? 'it' : `all ${open.length}`}
        </button>
      </div>
      {open.map((proposal) => (
        <p key={proposal.vital} className="flex items-baseline gap-2 border-t border-hair py-1 text-sm">
          <b className="w-56 shrink-0 font-semibold">{proposal.vital}</b>
          <span className="min-w-0 flex-1 text-soft">{proposal.because}</span>
          <button
            type="button"
            className="button-plain"
            aria-label={`try ${proposal.vital}`}
            onClick={() => put(proposal.vital, proposal.mapping)}
          >
            try
          </button>
        </p>
      ))}
    </section>
  );
}

function Saving({
  busy,
  looking,
  save,
  leave,
}: {
  busy: boolean;
  /** What the mapping would find is being looked for. */
  looking: boolean;
  save: () => Promise<void>;
  leave: () => void;
}) {
  return (
    <div className="sticky bottom-0 mt-3 flex items-center gap-2 border-t border-line bg-ground py-2">
      <button type="button" className="button" disabled={busy || looking} onClick={() => void save()}>
        Save the mapping
      </button>
      <button type="button" className="button-plain px-2" onClick={leave}>
        leave it as it was
      </button>
      <p role="status" className="text-sm text-soft">
        {looking ? 'looking' : 'This is tried; nothing counts before it is saved.'}
      </p>
    </div>
  );
}

const ROLE_WORDS: Readonly<Record<string, string>> = { podUid: 'uid of the pod' };
const roleWord = (role: string) => ROLE_WORDS[role] ?? role;

/** A newest value, in the unit of what it is. */
const valueWords = (vital: string, value: number): string =>
  /time|throttled/.test(vital)
    ? formatDuration(value * 1000)
    : /count|inodes|errors/.test(vital)
      ? formatNumber(value)
      : formatBytes(value);
const valueText = ({ vital, example }: VitalState): string =>
  example === null ? '' : `${valueWords(vital, example.value)} at ${example.of}`;

function Row({
  state,
  metrics,
  edited,
  put,
}: {
  state: VitalState;
  metrics: readonly string[];
  edited: boolean;
  put: (mapping: Mapping | null) => void;
}) {
  const { vital, mapping, mapped, objects, ofObjects, problem } = state;
  const [open, setOpen] = useState(false);
  const all = ofObjects > 0 && objects === ofObjects;
  return (
    <tr className="border-b border-hair align-baseline">
      <td className="py-1 pr-3 font-semibold whitespace-nowrap">{vital}</td>
      <td className="py-1 pr-3 font-mono text-xs break-all">
        {open ? <MetricField vital={vital} mapping={mapping} metrics={metrics} put={put} /> : mapping.metric}
      </td>
      <td className="py-1 pr-3 text-xs">
        {Object.entries(mapping.labels).map(([role, label]) =>
          open ? (
            <LabelField key={role} role={role} label={label} mapping={mapping} put={put} />
          ) : (
            <p key={role}>
              <span className="text-soft">{roleWord(role)}</span> <span className="font-mono">{label}</span>
            </p>
          ),
        )}
      </td>
      <td className="py-1 pr-3">
        {open ? (
          <input
            aria-label={`factor of ${vital}`}
            className="field w-20"
            inputMode="decimal"
            defaultValue={mapping.factor}
            onBlur={({ target }) =>
              Number(target.value) !== mapping.factor && put({ ...mapping, factor: Number(target.value) })
            }
          />
        ) : mapping.factor === 1 ? (
          ''
        ) : (
          mapping.factor
        )}
      </td>
      <td className={clsx('py-1 pr-3 whitespace-nowrap', !all && ofObjects > 0 && 'font-bold')}>
        {ofObjects === 0
          ? 'nothing has it'
          : `${all ? 'all' : `${objects} of`} ${formatCount(ofObjects, vital.split('.')[0]!)}`}
        {problem !== null && <p className="max-w-48 whitespace-normal text-critical">{problem}</p>}
      </td>
      <td className="py-1 pr-3 text-soft">{valueText(state)}</td>
      <td className="py-1 text-right whitespace-nowrap">
        {mapped && (
          <button type="button" className="button-plain mr-3" aria-label={`${vital} as here`} onClick={() => put(null)}>
            {edited ? 'not this' : 'unmap'}
          </button>
        )}
        <button
          type="button"
          className="button-plain"
          aria-label={`edit ${vital}`}
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          {open ? 'done' : 'edit'}
        </button>
      </td>
    </tr>
  );
}

function MetricField({
  vital,
  mapping,
  metrics,
  put,
}: {
  vital: string;
  mapping: Mapping;
  metrics: readonly string[];
  put: (mapping: Mapping) => void;
}) {
  return (
    <>
      <input
        aria-label={`metric of ${vital}`}
        className="field font-mono text-xs"
        list={`metrics ${vital}`}
        defaultValue={mapping.metric}
        onBlur={({ target }) => target.value !== mapping.metric && put({ ...mapping, metric: target.value })}
      />
      <datalist id={`metrics ${vital}`}>
        {metrics.map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
    </>
  );
}
function LabelField({
  role,
  label,
  mapping,
  put,
}: {
  role: string;
  label: string;
  mapping: Mapping;
  put: (mapping: Mapping) => void;
}) {
  return (
    <label className="flex items-center gap-1">
      {roleWord(role)}
      <input
        className="field font-mono text-xs"
        defaultValue={label}
        onBlur={({ target }) =>
          target.value !== label && put({ ...mapping, labels: { ...mapping.labels, [role]: target.value } })
        }
      />
    </label>
  );
}
