import type { EndpointAnswer } from '@zetopsis/contract';
import { HOUR } from '@zetopsis/core/units';

/** Rows of a count that are answered. */
export const MOST_COUNTED = 60;
/** "A day ago" is what was noted so near to it. */
export const AROUND = 2 * HOUR;
export const nameOf = ({ connection, name }: EndpointAnswer): string =>
  connection === null ? name : `${connection} › ${name}`;
