import { PROXY } from './wire-names.ts';

const NAME = '[a-z0-9](?:[a-z0-9-]*[a-z0-9])?';
const OBJECT = new RegExp(`^((?:${NAME}\\.)*${NAME})\\.(?:(${NAME})\\.(pod|service)|(node))$`);

/**
 * Where a cluster's API hands a request on to: `http://NAME.NAMESPACE.pod:PORT/path`, `NAME.NAMESPACE.service` or
 * `NAME.node`. Null for anything else.
 */
export function proxyPath({ protocol, hostname, port, pathname, search }: URL): string | null {
  const parts = OBJECT.exec(hostname);
  if (!parts) return null;
  const [, name = '', namespace = '', kind] = parts;
  const number = port || (protocol === 'https:' ? '443' : '80');
  return `${PROXY(kind ?? 'node', namespace, `${protocol === 'https:' ? 'https:' : ''}${name}:${number}`)}${pathname}${search}`;
}
