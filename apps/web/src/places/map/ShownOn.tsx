import { useSavedMeasuresQuery } from '../../state/measuresApi.ts';
import type { MapMeasure } from './useMapMeasure.ts';

type OfMeasure = `measure:${string}`;
/** What boxes or links show beside their names: a figure of the map, or any measure that is kept. */
export function ShownOn<T extends string>({
  name,
  options,
  value,
  set,
}: {
  name: string;
  options: readonly T[];
  value: T | OfMeasure;
  set: (value: T | OfMeasure) => void;
}) {
  const { data } = useSavedMeasuresQuery();
  const measures = data?.measures ?? [];
  const keyOf = (text: string): OfMeasure | null => (text.startsWith('measure:') ? (text as OfMeasure) : null); // it begins so
  const chosen = keyOf(value);
  return (
    <label className="flex items-center gap-1 text-soft">
      {name}
      <select
        className="field w-auto max-w-48 py-0"
        value={value}
        onChange={({ target }) => set(options.find((one) => one === target.value) ?? keyOf(target.value) ?? value)}
      >
        {options.map((one) => (
          <option key={one}>{one}</option>
        ))}
        {(measures.length > 0 || chosen !== null) && (
          <optgroup label="a measure">
            {measures.map(({ key, title }) => (
              <option key={key} value={`measure:${key}`}>
                {title}
              </option>
            ))}
            {chosen !== null && !measures.some(({ key }) => `measure:${key}` === chosen) && (
              <option value={chosen}>{chosen.slice('measure:'.length)}</option>
            )}
          </optgroup>
        )}
      </select>
    </label>
  );
}

/** What keeps measures that were chosen from showing anything. */
export function MeasureNotes({ measures }: { measures: readonly (MapMeasure | null)[] }) {
  return measures.map((measure) =>
    measure?.problem == null ? null : (
      <p key={measure.title} role="status" className="border-b border-line px-4 py-1 text-sm">
        <b>{measure.title}</b>: {measure.problem}
      </p>
    ),
  );
}
