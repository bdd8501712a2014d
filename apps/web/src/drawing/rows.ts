import type { UsageRow } from '@zetopsis/contract';

/** The nameless share of others can be looked at, not opened. */
export const isOthers = ({ kind }: Pick<UsageRow, 'kind'>): boolean => kind === 'others';
/** Rows that stand for no object: the share of others, of machines themselves, what is asked for and not used, what is free. */
export const isNobodys = ({ kind }: Pick<UsageRow, 'kind'>): boolean =>
  kind === 'others' || kind === 'itself' || kind === 'unused' || kind === 'free';
