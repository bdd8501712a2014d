import { formatCount } from '@zetopsis/core/format';
import { useState } from 'react';
import { FormAside } from '../../forms/FormAside.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { asFailure } from '../../state/failure.ts';
import { useAddEndpointsMutation } from '../../state/givenApi.ts';
import { readList } from './lists.ts';

const SUCH =
  'name,address,every,quay\nnorth-light,http://10.4.0.7:9102/metrics,15,north\neast-crane,http://10.4.0.9:9102/metrics,30,east';

/** Many endpoints at once: all are added, or none. */
export function PastedList({ close }: { close: () => void }) {
  const [text, setText] = useState('');
  const [add, { isLoading, error }] = useAddEndpointsMutation();
  const listed = readList(text);
  const wrong = listed.filter(({ problem }) => problem !== null);
  const fields = error ? asFailure(error).fields : [];
  const submit = async () => {
    const done = await add(
      listed.map(({ key, address, group, intervalSeconds, labels }) => ({
        key,
        document: { address, group, intervalSeconds, labels },
        secret: '',
      })),
    );
    if (!done.error) close();
  };
  return (
    <FormAside label="paste a list of endpoints" title="Paste a list" width="wide">
      <p className="mb-3 text-sm text-soft">
        One endpoint a line: its address alone, or name, address, seconds, group. Field names in the first line may add
        labels. Or{' '}
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
      {listed.length > 0 && (
        <table className="mb-3 w-full text-sm">
          <tbody>
            {listed.slice(0, 100).map((one) => (
              <tr key={one.line} className="border-t border-hair align-baseline">
                <td className="py-0.5 pr-2 text-soft">{one.line}</td>
                {one.problem === null ? (
                  <>
                    <td className="py-0.5 pr-2 font-semibold">{one.key}</td>
                    <td className="py-0.5 pr-2 font-mono text-xs break-all">{one.address}</td>
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
            ))}
          </tbody>
        </table>
      )}
      <div className="flex gap-2">
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
