import type { PodPortsAnswer } from '@zetopsis/contract';
import { useEffect, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { useSourcesQuery } from '../../state/endpointsApi.ts';
import { asFailure } from '../../state/failure.ts';
import { usePodPortsMutation } from '../../state/givenApi.ts';

/** From a pod to its node and its ports, and to what answers there. */
export function PodPorts() {
  const { data: sources } = useSourcesQuery();
  const [ask, { data, error, isLoading }] = usePodPortsMutation();
  const clusters = sources?.connections.filter(({ may }) => may !== 'read').map(({ name }) => name) ?? [];
  const [parameters] = useSearchParams();
  // a pod's sheet leads here
  const [from = '', ...rest] = (parameters.get('ask') ?? '').split('/');
  const [chosen, setChosen] = useState(from);
  const [path, setPath] = useState(rest.join('/'));
  const known = clusters.includes(from);
  const form = useRef<HTMLFormElement>(null);
  useEffect(() => {
    if (!known || rest.length !== 2) return;
    void ask({ cluster: from, namespace: rest[0]!, pod: rest[1]! });
    form.current?.scrollIntoView({ block: 'center' });
    // once, as the address says
  }, [known]);
  if (clusters.length === 0) return null;
  const cluster = clusters.includes(chosen) ? chosen : clusters[0]!; // there is one
  const [namespace = '', pod = ''] = path.split('/').map((part) => part.trim());
  const fields = error ? asFailure(error).fields : [];
  return (
    <form
      ref={form}
      aria-label="what answers at a pod"
      className="mt-6 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        void ask({ cluster, namespace, pod });
      }}
    >
      <h2 className="section-title mb-2">What answers at a pod?</h2>
      <div className="mb-2 flex gap-2">
        <select
          aria-label="cluster of the pod"
          className="field max-w-28"
          value={cluster}
          onChange={({ target }) => setChosen(target.value)}
        >
          {clusters.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </select>
        <input
          aria-label="namespace and pod"
          className="field"
          placeholder="namespace/pod"
          value={path}
          onChange={({ target }) => setPath(target.value)}
        />
        <button type="submit" className="button" disabled={isLoading || pod === ''}>
          {isLoading ? 'asking' : 'Ask'}
        </button>
      </div>
      <FormFailure error={error} />
      {fields.map(({ path: field, text }) => (
        <p key={field} role="alert" className="text-critical">
          {text}
        </p>
      ))}
      {data && <Answers told={data} />}
    </form>
  );
}

function Answers({ told }: { told: PodPortsAnswer }) {
  return (
    <div role="status">
      <p className="mb-1">
        {told.phase} on node <b>{told.node ?? 'none yet'}</b>
        {told.nodeAddress !== null && ` (${told.nodeAddress})`}; its address is {told.address ?? 'none yet'}.
      </p>
      {told.ports.length === 0 && <p>It declares no port.</p>}
      {told.ports.map((one) => (
        <div key={`${one.container} ${one.port}`} className="border-t border-hair py-1">
          <b>
            port {one.port}
            {one.name !== '' && ` ${one.name}`}
          </b>{' '}
          <span className="text-soft">of {one.container}</span>
          <p>
            <span className="text-soft">from here:</span> {one.direct}
          </p>
          <p>
            <span className="text-soft">through the cluster:</span> {one.through}
          </p>
          {one.readAs !== null && <p className="text-soft">It is read, as {one.readAs}.</p>}
        </div>
      ))}
    </div>
  );
}
