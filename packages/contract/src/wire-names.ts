/** Where a fixture has the last lines of containers. */
export const FIXTURE_LINES = 'logTail';
