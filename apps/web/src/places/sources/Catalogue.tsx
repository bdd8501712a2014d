import { useState } from 'react';
import { kindsLike, type Way } from './catalogue.ts';

/** Looks for what somebody has among the kinds of source, and leads to the way it is read. */
export function Catalogue({ choose }: { choose: (way: Way) => void }) {
  const [find, setFind] = useState('');
  const [chosen, setChosen] = useState<string | null>(null);
  const found = find.trim() === '' ? [] : kindsLike(find.trim());
  return (
    <section aria-label="kinds of source" className="mb-4 max-w-3xl">
      <input
        aria-label="find a kind of source"
        placeholder="look for it: database, Python, switch, script …"
        className="field max-w-96"
        value={find}
        onChange={({ target }) => {
          setFind(target.value);
          setChosen(null);
        }}
      />
      {find.trim() !== '' && found.length === 0 && (
        <p role="status" className="mt-1 text-sm text-soft">
          Nothing of that name. Whatever serves a page in OpenMetrics or plain text form can be read, and whatever
          speaks the open telemetry protocol can push: choose a way below.
        </p>
      )}
      <ul className="mt-1">
        {found.map(({ name, how, way }) => (
          <li key={name} className="border-t border-hair py-1 text-sm">
            <button
              type="button"
              aria-pressed={chosen === name}
              className="font-semibold hover:text-petrol aria-pressed:text-petrol"
              onClick={() => {
                setChosen(name);
                choose(way);
              }}
            >
              {name}
            </button>
            <p className="text-soft">{how}</p>
          </li>
        ))}
      </ul>
    </section>
  );
}
