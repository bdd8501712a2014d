import { describe, expect, it } from 'vitest';
import { proxyPath } from './proxyPath.ts';

describe('a page behind a cluster’s API', () => {
  it.each([
    ['http://web-1.tides.pod:9102/metrics?a=b', '/api/v1/namespaces/tides/pods/web-1:9102/proxy/metrics?a=b'],
    ['https://web.tides.service/metrics', '/api/v1/namespaces/tides/services/https:web:443/proxy/metrics'],
    ['http://n1.shore.test.node:10/x', '/api/v1/nodes/n1.shore.test:10/proxy/x'],
    ['http://web.1.tides.pod/', '/api/v1/namespaces/tides/pods/web.1:80/proxy/'],
  ])('%s', (address, path) => {
    expect(proxyPath(new URL(address))).toBe(path);
  });
  it.each(['http://10.0.0.1:9102/', 'http://web.pod/', 'http://web.tides.secret/', 'http://node/', 'http://a..b.pod/'])(
    'is not %s',
    (address) => {
      expect(proxyPath(new URL(address))).toBeNull();
    },
  );
});
