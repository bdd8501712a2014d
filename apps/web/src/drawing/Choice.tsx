/** One of several, or all of them: a filter above a list. */
export function Choice({
  label,
  all,
  value,
  set,
  options,
}: {
  label: string;
  /** What it says while nothing is chosen. */
  all: string;
  value: string;
  set: (value: string) => void;
  /** Values, each with its word. */
  options: readonly (readonly [value: string, word: string])[];
}) {
  return (
    <select aria-label={label} className="field max-w-44" value={value} onChange={({ target }) => set(target.value)}>
      <option value="">{all}</option>
      {options.map(([own, word]) => (
        <option key={own} value={own}>
          {word}
        </option>
      ))}
    </select>
  );
}
