import { formatCount } from '@zetopsis/core/format';
import { useRef, useState } from 'react';
import { FormAside } from '../../forms/FormAside.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { asFailure } from '../../state/failure.ts';
import { useAddEndpointsMutation, useTryEndpointMutation } from '../../state/givenApi.ts';
import { type Listed, readList } from './lists.ts';

const SUCH =
  'name,address,every,quay\nnorth-light,http://10.4.0.7:9102/metrics,15,north\neast-crane,http://10.4.0.9:9102/metrics,30,east';
/** Each is asked once, one after the other. */
const TRIED = 50;

interface Verdict {
  readonly ok: boolean;
  readonly text: string;
}
const documentOf = ({ address, group, through, intervalSeconds, labels }: Listed) => ({
  address,
  group,
  through,
  intervalSeconds,
  labels,
});

/** Many endpoints at once: tried without keeping anything; all are added, or none. */
export function PastedList({ close }: { close: () => void }) {
  const [text, setText] = useState('');
  const [add, { isLoading, error }] = useAddEndpointsMutation();
  const listed = readList(text);
  const { verdicts, trying, tryAll } = useTries(listed);
  const wrong = listed.filter(({ problem }) => problem !== null);
  const fields = error ? asFailure(error).fields : [];
  const submit = async () => {
    const done = await add(listed.map((one) => ({ key: one.key, document: documentOf(one), secret: '' })));
    if (!done.error) close();
  };
  return (
    <FormAside label="paste a list of endpoints" title="Paste a list" width="wide">
      <p className="mb-3 text-sm text-soft">
        One endpoint a line: its address alone, or name, address, seconds, group, the cluster it is reached through.
        Field names in the first line may add labels. Or{' '}
        <label className="button-plain">
          take a file
          <input
            type="file"
            accept=".csv,text/csv,text/plain"
            className="sr-only"
            onChange={({ target }) => void target.files?.[0]?.text().then(setText)}
          />
        </label>
        .
      </p>
      <textarea
        aria-label="endpoints, one a line"
        className="field mb-3 h-40 font-mono text-xs"
        placeholder={SUCH}
        value={text}
        onChange={({ target }) => setText(target.value)}
      />
      <FormFailure error={error} />
      {fields.map(({ path, text: what }) => (
        <p key={path} role="alert" className="mb-1 text-critical">
          {listed[Number(/^endpoints\.(\d+)/.exec(path)?.[1] ?? -1)]?.key ?? path}: {what}
        </p>
      ))}
      {listed.length > 0 && <Lines listed={listed} verdicts={verdicts} />}
      <div className="flex gap-2">
        <button
          type="button"
          className="button"
          disabled={listed.length === 0 || wrong.length > 0 || trying}
          onClick={() => void tryAll()}
        >
          {trying ? 'trying' : listed.length > TRIED ? `Try the first ${TRIED}` : 'Try them all'}
        </button>
        <button
          type="button"
          className="button"
          disabled={listed.length === 0 || wrong.length > 0 || isLoading}
          onClick={() => void submit()}
        >
          {listed.length === 0 ? 'Add' : `Add ${formatCount(listed.length, 'endpoint')}`}
        </button>
        <button type="button" className="button-plain px-2" onClick={close}>
          cancel
        </button>
        {wrong.length > 0 && <p className="text-sm text-critical">{formatCount(wrong.length, 'line')} to mend first</p>}
      </div>
    </FormAside>
  );
}

/** What came of trying each, by its address and way; a changed line is to be tried again. */
function useTries(listed: readonly Listed[]) {
  const [tryIt] = useTryEndpointMutation();
  const [verdicts, setVerdicts] = useState<ReadonlyMap<string, Verdict>>(new Map());
  const [trying, setTrying] = useState(false);
  const newest = useRef(0);
  const tryAll = async () => {
    const turn = ++newest.current;
    setTrying(true);
    setVerdicts(new Map());
    for (const one of listed.slice(0, TRIED)) {
      const { data, error } = await tryIt({ document: documentOf(one), secret: '' });
      if (turn !== newest.current) return;
      const verdict = data ? { ok: data.ok, text: data.verdict } : { ok: false, text: asFailure(error).text };
      setVerdicts((before) => new Map(before).set(wayOf(one), verdict));
    }
    setTrying(false);
  };
  return { verdicts, trying, tryAll };
}
const wayOf = ({ address, through }: Listed): string => `${through ?? ''} ${address}`;

function Lines({ listed, verdicts }: { listed: readonly Listed[]; verdicts: ReadonlyMap<string, Verdict> }) {
  return (
    <table className="mb-3 w-full text-sm">
      <tbody>
        {listed.slice(0, 100).map((one) => {
          const verdict = one.problem === null ? verdicts.get(wayOf(one)) : undefined;
          return (
            <tr key={one.line} className="border-t border-hair align-baseline">
              <td className="py-0.5 pr-2 text-soft">{one.line}</td>
              {one.problem === null ? (
                <>
                  <td className="py-0.5 pr-2 font-semibold">{one.key}</td>
                  <td className="py-0.5 pr-2">
                    <span className="font-mono text-xs break-all">{one.address}</span>
                    {one.through !== null && <span className="text-soft"> through {one.through}</span>}
                    {verdict && <p className={verdict.ok ? '' : 'font-semibold'}>{verdict.text}</p>}
                  </td>
                  <td className="py-0.5 whitespace-nowrap">
                    {one.intervalSeconds === null ? 'as its group' : `${one.intervalSeconds} s`}
                  </td>
                </>
              ) : (
                <td colSpan={3} className="py-0.5 text-critical">
                  {one.problem}
                </td>
              )}
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
