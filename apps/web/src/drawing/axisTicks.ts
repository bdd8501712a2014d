/** One, two and five of a unit, in which an axis counts. */
const STEPS = [1, 2, 5] as const;
/** Two or three round values up to the top of a chart, in units of what it shows: bytes by 1024. */
export function axisTicks(top: number, amount: (value: number) => string): number[] {
  if (!(top > 0) || !Number.isFinite(top)) return [];
  const unit = /iB/.test(amount(2 ** 30)) ? 1024 ** Math.floor(Math.log(Math.max(1, top)) / Math.log(1024)) : 1;
  const half = top / unit / 2;
  const power = 10 ** Math.floor(Math.log10(half));
  const fine = STEPS.map((one) => one * power * unit).findLast((one) => one <= half * unit) ?? power * unit;
  const step = top / fine >= 4 ? 2 * fine : fine;
  return Array.from({ length: Math.floor(top / step) }, (_, i) => (i + 1) * step);
}
