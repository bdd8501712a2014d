import { accountManifest } from '@zetopsis/contract';
import { useState } from 'react';
import { Copyable } from '../../drawing/Copyable.tsx';
import { FLAVOURS, type Flavour } from './catalogue.ts';
import { Step } from './Step.tsx';
import { TAKE_TOKEN } from './wire-names.ts';

/** The account that reads a cluster, in the grade that is wished, and how it differs from flavour to flavour. */
export function Account() {
  const [proxy, setProxy] = useState(true);
  const [secrets, setSecrets] = useState(false);
  const [flavour, setFlavour] = useState<Flavour>('run by yourselves');
  return (
    <Step number={1} text="Make an account in the cluster that may look, and nothing else:">
      <fieldset className="mb-2 space-y-1 text-sm" aria-label="what the account may">
        <label className="flex items-baseline gap-2">
          <input type="radio" name="grade" checked={!proxy} onChange={() => setProxy(false)} />
          objects, events and figures of nodes and containers
        </label>
        <label className="flex items-baseline gap-2">
          <input type="radio" name="grade" checked={proxy} onChange={() => setProxy(true)} />
          <span>
            that, and the last lines of containers, and pages of pods, services and nodes through the cluster’s API
          </span>
        </label>
        <label className="flex items-baseline gap-2">
          <input type="checkbox" checked={secrets} onChange={({ target }) => setSecrets(target.checked)} />
          <span>
            also when secrets change. A cluster cannot grant that alone: the account could then read what they hold.
            Zetopsis asks for their metadata only.
          </span>
        </label>
      </fieldset>
      <Copyable text={accountManifest({ proxy, secrets })} label="the account, reader.yaml" />
      <p className="my-1.5">Apply it, and take its token, the authority, and the address of the API:</p>
      <Copyable text={TAKE_TOKEN} label="how to take them" />
      <label className="mt-2 flex items-baseline gap-2 text-sm">
        The cluster is
        <select
          className="field w-auto"
          value={flavour}
          onChange={({ target }) => setFlavour(target.value as Flavour)} // its own keys
        >
          {Object.keys(FLAVOURS).map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      </label>
      <p className="mt-1 text-sm text-soft">{FLAVOURS[flavour]}</p>
    </Step>
  );
}
