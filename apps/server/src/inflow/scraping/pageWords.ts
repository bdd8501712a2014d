import { failureCode, failureInWords } from '../../ground/platform/failureWords.ts';
import type { Proof } from './plans.ts';

const PROOF: Readonly<Record<Proof['by'], string>> = {
  nothing: 'It asks for a proof of who reads it, and none is set: enter a name and password, a token or a certificate.',
  bearer: 'The token is not accepted: paste a valid one.',
  basic: 'Name and password are not accepted: check both.',
  certificate: 'The certificate is not accepted: check it, and the key.',
  cluster: 'The cluster’s token is not accepted: paste a valid one at its connection.',
};

/** What an HTTP status means for somebody who reads a page. */
export function pageStatusInWords(
  status: number,
  { proves, through }: { readonly proves: Proof['by']; readonly through: boolean },
  location: string | string[] | undefined,
): string {
  switch (status) {
    case 401:
      return `It wants to know who asks (401). ${PROOF[proves]}`;
    case 403:
      return proves === 'cluster'
        ? 'Reading it is not allowed (403). Grant the cluster’s token get on pages of nodes, and on the proxy of pods and services.'
        : `Reading it is not allowed (403). ${proves === 'nothing' ? PROOF.nothing : 'Whoever runs it has to allow this reader.'}`;
    case 404:
      return 'There is nothing at this path (404). Check the path.';
    case 406:
      return 'It serves no form that Zetopsis reads (406): neither OpenMetrics nor plain text.';
    default:
      if (status >= 300 && status < 400)
        return `It redirects elsewhere (${status}${typeof location === 'string' ? `, to ${location.slice(0, 200)}` : ''}); Zetopsis does not follow. Use the address it points to.`;
      if (status === 503 && through)
        return 'The cluster cannot reach it (503): nothing answers at this port, or the object is gone.';
      if (status >= 500) return `The program itself failed (${status}). Its own log says why; it will be tried again.`;
      return `It answered ${status}, which no metrics page does.`;
  }
}

/** A failure on the way to a page. */
export function pageFailureInWords(error: unknown, url: URL, timeoutMs: number): string {
  const port = url.port || (url.protocol === 'https:' ? '443' : '80');
  const code = failureCode(error);
  if (code.startsWith('HPE_'))
    return url.protocol === 'http:'
      ? 'What answers there does not speak HTTP. Perhaps it speaks TLS: try https.'
      : 'What answers there does not speak HTTP. Check the port.';
  switch (code) {
    case 'ECONNREFUSED':
      return `The machine answers, but nothing listens on port ${port} there (connection refused). If the program runs, it is probably bound to loopback only: let it listen on all addresses; else check the port.`;
    case 'ENOTFOUND':
    case 'EAI_AGAIN':
      return `The name ${url.hostname} cannot be resolved. Check its spelling and the name service.`;
    case 'TimeoutError':
    case 'ABORT_ERR':
    case 'ETIMEDOUT':
    case 'UND_ERR_CONNECT_TIMEOUT':
    case 'UND_ERR_HEADERS_TIMEOUT':
      return `No answer within ${Math.round(timeoutMs / 100) / 10} s. Check that a firewall or network policy lets Zetopsis through, or allow it more time.`;
    case 'ERR_SSL_WRONG_VERSION_NUMBER':
    case 'EPROTO':
      return 'It does not speak TLS on this port. Try http, or check the port.';
    case 'ERR_SSL_TLSV13_ALERT_CERTIFICATE_REQUIRED':
    case 'ERR_SSL_SSLV3_ALERT_HANDSHAKE_FAILURE':
    case 'ERR_SSL_SSL/TLS_ALERT_HANDSHAKE_FAILURE':
      return 'It wants a client certificate. Set one, with its key.';
    case 'ECONNRESET':
    case 'UND_ERR_SOCKET':
      return url.protocol === 'http:'
        ? 'It broke the connection in the middle. If it speaks TLS on this port, use https; else it is tried again.'
        : 'It broke the connection in the middle. It may want a client certificate; it is tried again.';
    default:
      return failureInWords(error);
  }
}
