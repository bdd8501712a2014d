import type { UsageRow } from '@zetopsis/contract';
import { formatClock } from '@zetopsis/core/format';

/** When it was last there, of what is gone. */
export const goneWords = (at: number | null): string =>
  at === null ? 'gone by the end of the window' : `gone, last there ${formatClock(at, Date.now())}`;

/** The nameless share of others can be looked at, not opened. */
export const isOthers = ({ kind }: Pick<UsageRow, 'kind'>): boolean => kind === 'others';
/** Rows that stand for no object: the share of others, of machines themselves, what is asked for and not used, what is free. */
export const isNobodys = ({ kind }: Pick<UsageRow, 'kind'>): boolean =>
  kind === 'others' || kind === 'itself' || kind === 'unused' || kind === 'free';
