/** A counter stands by the second. */
export const tracedUnit = (type: string, unit: string): string =>
  type === 'gauge'
    ? unit
    : unit === 'seconds' && type === 'counter'
      ? 'cores'
      : unit === 'bytes'
        ? 'bytes per second'
        : 'per second';
