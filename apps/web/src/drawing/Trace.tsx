/** A course without axes: its shape only; 0 lies within. */
export function Trace({ values, height }: { values: readonly (number | null)[]; height: number }) {
  const there = values.filter((value) => value !== null);
  const [least, most] = [Math.min(0, ...there), Math.max(0, ...there)];
  const path = values
    .map((value, i) => {
      if (value === null) return '';
      const x = (i / Math.max(1, values.length - 1)) * 100;
      const y = (1 - (value - least) / (most - least || 1)) * (height - 2) + 1;
      return `${i > 0 && values[i - 1] != null ? 'L' : 'M'}${x.toFixed(2)} ${y.toFixed(2)}`;
    })
    .join('');
  return (
    <svg
      className="block w-full"
      height={height}
      viewBox={`0 0 100 ${height}`}
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      <path d={`M0 ${height - 0.5}H100`} stroke="var(--hair)" vectorEffect="non-scaling-stroke" />
      <path d={path} fill="none" stroke="var(--series-1)" strokeWidth="1.4" vectorEffect="non-scaling-stroke" />
    </svg>
  );
}
