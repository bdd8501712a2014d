/** Attributes of the semantic conventions: a start from nothing, and a browser that asks. */
export const COLD_START = 'faas.coldstart';
export const BROWSER = 'browser.platform';
