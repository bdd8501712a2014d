const UNKNOWN_AUTHORITY: ReadonlySet<string> = new Set([
  'SELF_SIGNED_CERT_IN_CHAIN',
  'DEPTH_ZERO_SELF_SIGNED_CERT',
  'UNABLE_TO_VERIFY_LEAF_SIGNATURE',
  'UNABLE_TO_GET_ISSUER_CERT_LOCALLY',
  'CERT_SIGNATURE_FAILURE',
]);
/** Whether the other side is vouched for by somebody whom this machine does not know. */
export const isUnknownAuthority = (error: unknown): boolean => UNKNOWN_AUTHORITY.has(describe(error).code);

/** A network failure in plain words that end with what to do. */
export function failureInWords(error: unknown): string {
  const { code, message } = describe(error);
  if (UNKNOWN_AUTHORITY.has(code))
    return 'The certificate is signed by an authority that is not known here. Paste the cluster’s certificate authority.';
  switch (code) {
    case 'ECONNREFUSED':
      return 'Nothing listens at this address and port (connection refused). Check the port, and that the program is running and not bound to loopback only.';
    case 'ENOTFOUND':
    case 'EAI_AGAIN':
      return 'The name cannot be resolved. Check its spelling and the name service.';
    case 'ECONNRESET':
    case 'UND_ERR_SOCKET':
    case 'EPIPE':
      return 'The other side broke the connection in the middle. It will be tried again.';
    case 'ETIMEDOUT':
    case 'UND_ERR_CONNECT_TIMEOUT':
    case 'UND_ERR_HEADERS_TIMEOUT':
    case 'UND_ERR_BODY_TIMEOUT':
    case 'TimeoutError':
    case 'ABORT_ERR':
      return 'No answer in time. Check that a firewall or network policy lets Zetopsis through.';
    case 'EHOSTUNREACH':
    case 'ENETUNREACH':
      return 'There is no way to this address from here. Check the network, or read through a route that can reach it.';
    case 'ERR_TLS_CERT_ALTNAME_INVALID':
      return 'The certificate is for another name than this address. Use the name in the certificate.';
    case 'CERT_HAS_EXPIRED':
      return 'The certificate has expired. Renew it.';
    case 'CERT_NOT_YET_VALID':
      return 'The certificate is not valid yet. Compare the clocks.';
    case 'EPROTO':
    case 'ERR_SSL_WRONG_VERSION_NUMBER':
      return 'The other side does not speak TLS on this port. Check the port and the scheme.';
    case 'ADDRESS_DENIED':
      return `Connecting there is not allowed: ${message}.`;
    default:
      return `${message || 'The connection failed'}. It will be tried again.`;
  }
}

export const failureCode = (error: unknown): string => describe(error).code;

function describe(error: unknown): { code: string; message: string } {
  for (let at: unknown = error, depth = 0; at instanceof Error && depth < 4; at = at.cause, depth++) {
    if (at.name === 'HTTPParserError') return { code: 'HPE_', message: at.message };
    if (at.name === 'TimeoutError') return { code: 'TimeoutError', message: at.message };
    if ('code' in at && typeof at.code === 'string') return { code: at.code, message: at.message };
  }
  return { code: '', message: error instanceof Error ? error.message : String(error) };
}

/** What an HTTP status means for somebody who reads a page. */
export function statusInWords(status: number): string {
  switch (status) {
    case 401:
      return 'The token is not accepted (401). Paste a valid one.';
    case 403:
      return 'The token may not read this (403). Grant it get, list and watch.';
    case 404:
      return 'There is nothing at this path (404). Check the path.';
    default:
      if (status >= 300 && status < 400)
        return `The other side redirects elsewhere (${status}); Zetopsis does not follow. Use the address it points to.`;
      if (status >= 500) return `The other side failed (${status}). It will be tried again.`;
      return `The other side answered ${status}.`;
  }
}
