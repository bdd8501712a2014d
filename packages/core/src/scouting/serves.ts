import type { DurationMs } from '../units/index.ts';

/** One page that an object says it serves. */
export interface Served {
  /** A number or the name of a port. */
  readonly port: string;
  readonly path: string;
  /** Null: as often as the scout says. */
  readonly every: DurationMs | null;
  /** The translator of a page that is no metrics page; null where it is one. */
  readonly as: string | null;
}

const ENTRY = /^([A-Za-z0-9-]{1,63})(\/\S*)?((?:\s+(?:every\s+\S+|as\s+\S+))*)$/;
const UNITS: Readonly<Record<string, number>> = { s: 1000, m: 60_000, h: 3_600_000 };
const MOST = 16;

/**
 * The annotation `zetopsis/serves`: pages parted by semicolons, each a port (number or name), a path, and in any order
 * `every 15s` and `as translator`. "9102/metrics every 15s; 8080/status as gate-page". What cannot be read is said.
 */
export function readServes(text: string): { readonly served: readonly Served[]; readonly problems: readonly string[] } {
  const served: Served[] = [];
  const problems: string[] = [];
  const entries = text
    .split(';')
    .map((entry) => entry.trim())
    .filter((entry) => entry !== '');
  if (entries.length === 0) problems.push('it names no page; write such as “9102/metrics every 15s”');
  if (entries.length > MOST) problems.push(`it names ${entries.length} pages; the first ${MOST} count`);
  for (const entry of entries.slice(0, MOST)) {
    const parts = ENTRY.exec(entry);
    const rest = parts?.[3] ?? '';
    const every = /every\s+(\d{1,6})([smh])(?=\s|$)/.exec(rest);
    const interval = every ? Number(every[1]) * UNITS[every[2]!]! : null;
    const port = parts?.[1] ?? '';
    const problem = !parts
      ? 'it is not of the form “port/path every 15s as translator”'
      : /every/.test(rest) && interval === null
        ? 'how often is written such as “every 15s”, “every 5m” or “every 1h”'
        : interval !== null && (interval < 1000 || interval > 3_600_000)
          ? 'it may be read every 1 s to 1 h'
          : /^\d+$/.test(port) && (Number(port) < 1 || Number(port) > 65_535)
            ? 'a port is a number from 1 to 65535, or its name'
            : null;
    if (problem) problems.push(`“${entry.slice(0, 80)}”: ${problem}`);
    else
      served.push({
        port,
        path: parts?.[2] ?? '/metrics',
        every: interval,
        as: /as\s+(\S+)/.exec(rest)?.[1] ?? null,
      });
  }
  return { served, problems };
}
