const DECIMAL = /^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?$/;
const HEXADECIMAL = /^([+-]?)0[xX]([0-9a-fA-F]*)(?:\.([0-9a-fA-F]*))?(?:[pP]([+-]?\d+))?$/;

/** OpenMetrics 1.0, "Numbers": real numbers, infinities in either spelling, NaN; no hexadecimal, no blanks. */
export function readNumber(token: string): number | null {
  if (DECIMAL.test(token)) return Number(token);
  switch (token.toLowerCase()) {
    case 'nan':
      return Number.NaN;
    case '+inf':
    case 'inf':
    case '+infinity':
    case 'infinity':
      return Number.POSITIVE_INFINITY;
    case '-inf':
    case '-infinity':
      return Number.NEGATIVE_INFINITY;
    default:
      return null;
  }
}

/** The plain form takes hexadecimal numbers and signed NaN as well. */
export function readPlainNumber(token: string): number | null {
  const number = readNumber(token);
  if (number !== null) return number;
  if (/^[+-]nan$/i.test(token)) return Number.NaN;
  const parts = HEXADECIMAL.exec(token);
  if (!parts || (parts[2] === '' && !parts[3])) return null;
  let size = 0;
  for (const digit of parts[2]!) size = size * 16 + Number.parseInt(digit, 16);
  let share = 1 / 16;
  for (const digit of parts[3] ?? '') {
    size += Number.parseInt(digit, 16) * share;
    share /= 16;
  }
  const scaled = size * 2 ** Number(parts[4] ?? 0);
  return parts[1] === '-' ? -scaled : scaled;
}

/** OpenMetrics 1.0, "Timestamps": a real number of seconds. In ms; null when it is none, or far outside all time. */
export function readSeconds(token: string): number | null {
  if (!DECIMAL.test(token)) return null;
  const seconds = Number(token);
  return Math.abs(seconds) > 1e12 ? null : Math.round(seconds * 1000);
}

/** The plain form's time: whole milliseconds. */
export function readMilliseconds(token: string): number | null {
  if (!/^[+-]?\d{1,16}$/.test(token)) return null;
  const ms = Number(token);
  return Math.abs(ms) > 1e15 ? null : ms;
}
