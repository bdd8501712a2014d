import { type EndpointAnswer, SERVES_KEY } from '@zetopsis/contract';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { type ReactNode, useState } from 'react';
import { Link } from 'react-router';
import { Copyable } from '../../drawing/Copyable.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';
import { useSourcesQuery } from '../../state/endpointsApi.ts';
import { Account } from './Account.tsx';
import { Catalogue } from './Catalogue.tsx';
import type { Way } from './catalogue.ts';
import { Step } from './Step.tsx';
import { endpointName } from './sourcesModel.ts';

const HAVE: Readonly<Record<Way, string>> = {
  cluster: 'a cluster',
  host: 'a machine outside clusters',
  program: 'a program in a cluster, with a metrics page',
  own: 'a program with a page of its own',
  push: 'a program that can push',
};

const ANNOTATION = `metadata:
  annotations:
    ${SERVES_KEY}: "9102/metrics every 15s"
`;

/** What do you have? Then the settings, ready to copy, and where the proof is seen. */
export function Guide() {
  const [have, setHave] = useState<Way>('cluster');
  const { data } = useSourcesQuery();
  return (
    <div className="h-full overflow-auto px-5 py-4">
      <h2 className="section-title mb-2">What do you have?</h2>
      <Catalogue choose={setHave} />
      <div role="radiogroup" aria-label="what do you have" className="mb-4 flex flex-wrap gap-2">
        {Object.entries(HAVE).map(([value, text]) => (
          <label
            key={value}
            className={`cursor-pointer border px-3 py-1.5 ${have === value ? 'border-ink bg-sheet font-bold' : 'border-line text-soft'}`}
          >
            <input
              type="radio"
              name="have"
              className="sr-only"
              checked={have === value}
              onChange={() => setHave(value as Way)} // its own keys
            />
            {text}
          </label>
        ))}
      </div>
      <div className="max-w-3xl space-y-3">
        {STEPS_OF[have]()}
        {have !== 'own' && <Proof endpoints={data?.endpoints ?? []} />}
      </div>
    </div>
  );
}

/** What is to be done, by what one has. */
const STEPS_OF: Readonly<Record<Way, () => ReactNode>> = {
  cluster: () => <OfCluster />,
  host: () => <OfHost />,
  program: () => <OfProgram />,
  own: () => (
    <p>
      A page that is neither OpenMetrics nor plain text is not read: no translator is there. A pod that says it has one
      is found all the same, and stands in coverage with that reason. What can be done today: let the program, or a
      small exporter beside it, serve the figures as a metrics page.
    </p>
  ),
  push: () => <OfPush />,
};
function OfCluster() {
  const { link } = useView();
  return (
    <>
      <Account />
      <Step number={2} text="Enter them; the test says of each kind whether it may be read.">
        <Link className="button" to={withParameter(link('/sources/state'), 'connect', 'new')}>
          connect a cluster
        </Link>
      </Step>
    </>
  );
}
function OfHost() {
  const { link } = useView();
  return (
    <>
      <Step
        number={1}
        text="Let an exporter serve its metrics on the machine, on an address that Zetopsis can reach."
      />
      <Step number={2} text="Add the page by its address, and give the machine a name. Try it before it counts.">
        <Link className="button" to={link('/sources/endpoints')}>
          add by address
        </Link>
      </Step>
    </>
  );
}
function OfProgram() {
  const { link } = useView();
  return (
    <>
      <Step number={1} text="Say in the pod template which pages it serves:">
        <Copyable text={ANNOTATION} label="annotation" />
      </Step>
      <Step
        number={2}
        text="Let a scout find it, and every other that says so. Conventions that are on the clusters already can be used as well."
      >
        <Link className="button" to={link('/sources/scouts')}>
          make a scout
        </Link>
      </Step>
    </>
  );
}
function OfPush() {
  const { link } = useView();
  return (
    <>
      <Step
        number={1}
        text="Make a push key: it says whose the figures are, and which labels are attached. Its address and token are then shown ready to copy, for a program and for a script."
      >
        <Link className="button" to={link('/sources/push')}>
          make a push key
        </Link>
      </Step>
      <Step
        number={2}
        text="Give them to the program. Metrics come by the open telemetry protocol over HTTP, binary or JSON; a script may push a metrics page as text. What came since the push before is counted on here."
      />
    </>
  );
}

const withParameter = (address: string, name: string, value: string) =>
  `${address}${address.includes('?') ? '&' : '?'}${name}=${value}`;

/** Where it is seen that data arrive. */
function Proof({ endpoints }: { endpoints: readonly EndpointAnswer[] }) {
  const { link } = useView();
  const now = useNow();
  const waiting = endpoints.filter(({ state }) => state === 'waiting' || state === 'failing');
  const due = Math.max(0, ...waiting.map(({ nextDueAt }) => nextDueAt ?? 0));
  const [newest] = endpoints
    .filter(({ state, kind }) => state === 'read' && kind !== 'own')
    .sort((a, b) => (b.lastReadingAt ?? 0) - (a.lastReadingAt ?? 0));
  return (
    <Step number={3} text="The proof: the first readings, and the first strip.">
      <p role="status" className="text-sm">
        {waiting.length > 0 && due > now && (
          <b>First samples of what was added are expected by {formatClock(due, now, { seconds: true })}. </b>
        )}
        {newest?.lastReadingAt
          ? `The newest reading came ${formatDuration(Math.max(0, now - newest.lastReadingAt))} ago, from ${endpointName(newest)}. `
          : 'Nothing was read yet. '}
        <Link className="button-plain" to={link('/usage')}>
          see the strips
        </Link>
      </p>
    </Step>
  );
}
