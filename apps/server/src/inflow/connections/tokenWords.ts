/** What is told of a connection that has no token it may send. `kept`: there is one, for another place. */
export const withoutToken = (kept: boolean) => ({
  reason: kept
    ? 'The kept token is for another address or authority than this one: it is not sent here.'
    : 'No token is kept for this cluster: its settings came from a file or an earlier revision.',
  nextStep: 'Enter a token that may get, list and watch.',
});
