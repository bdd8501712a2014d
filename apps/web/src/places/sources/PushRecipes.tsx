import { Copyable } from '../../drawing/Copyable.tsx';
import { clusterRecipe, nodeRecipe, pageCommand, relayRecipe, senderSettings, UNCHANGED } from './wire-names.ts';

/** Ways to send with a key. The token is shown once; later a word stands in its place. */
export function PushRecipes({ address, token = 'THE-TOKEN' }: { address: string; token?: string }) {
  return (
    <div className="space-y-2">
      <Copyable text={senderSettings(address, token)} label="for a program with the open telemetry SDK" />
      <Copyable text={clusterRecipe(address, token)} label="in a cluster: as a secret, and what a container is given" />
      <Copyable text={pageCommand(address, token)} label="for a script: a metrics page as text" />
      <details>
        <summary className="text-sm">without changing the program, by language</summary>
        <p className="my-1 text-sm text-soft">Started so, with the settings above in its environment:</p>
        {UNCHANGED.map(([language, text]) => (
          <div key={language} className="mb-2">
            <Copyable text={text} label={language} />
          </div>
        ))}
      </details>
      <details>
        <summary className="text-sm">a sender on each node, or one receiver for a cluster</summary>
        <p className="my-1 text-sm text-soft">
          With the secret above in the namespace zetopsis. YOUR-SENDER and YOUR-RECEIVER are images of whatever speaks
          the protocol.
        </p>
        <div className="mb-2">
          <Copyable text={nodeRecipe(address)} label="on each node: what containers write" />
        </div>
        <Copyable text={relayRecipe(address)} label="once in a cluster: pods need no token" />
      </details>
    </div>
  );
}
