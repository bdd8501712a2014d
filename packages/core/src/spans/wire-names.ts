/** Attributes of the semantic conventions: a start from nothing, and a browser that asks. */
export const COLD_START = 'faas.coldstart';
export const BROWSER = 'browser.platform';
/** Where a sender says which share of its traces it leaves out. */
export const TRACE_STATE = { vendor: 'ot', threshold: 'th' } as const;
