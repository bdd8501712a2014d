import { rmSync, writeFileSync } from 'node:fs';
import { request } from 'node:https';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import { createApp } from '../src/bootstrap.ts';
import { readConfig } from '../src/ground/platform/config.ts';
import { migrate } from '../src/keeping/tables/database.ts';
import { newDatabase, standIn, temporaryFolder } from './harness.ts';

it('serves HTTPS itself, behind a path, whether a proxy takes the path off or hands it on', async () => {
  const folder = temporaryFolder();
  const url = await newDatabase();
  // only its certificates are wanted
  const world = await standIn();
  const { key, certificate, authority } = world.card.programs;
  await world.close();
  writeFileSync(join(folder, 'key.pem'), key);
  writeFileSync(join(folder, 'certificate.pem'), certificate);
  writeFileSync(join(folder, 'index.html'), '<!doctype html><html><head><base href="/" /></head></html>');
  const config = readConfig({
    ZETOPSIS_DATABASE_URL: url,
    ZETOPSIS_DATA_DIR: folder,
    ZETOPSIS_LOG_LEVEL: 'silent',
    ZETOPSIS_PUBLIC_URL: 'https://harbour.test/sight/',
    ZETOPSIS_TLS_CERTIFICATE: join(folder, 'certificate.pem'),
    ZETOPSIS_TLS_KEY: join(folder, 'key.pem'),
    ZETOPSIS_TRUST_PROXY: '127.0.0.1, 10.0.0.0/8',
    ZETOPSIS_WEB_DIR: folder,
  });
  expect(config).toMatchObject({ basePath: '/sight', trustProxy: ['127.0.0.1', '10.0.0.0/8'] });
  await migrate(url);
  const app = await createApp(config);
  await app.listen(0, '127.0.0.1');
  const { port } = app.getHttpServer().address() as AddressInfo; // listening on TCP
  const get = (path: string) =>
    new Promise<{ status: number; text: string }>((done, fail) => {
      request(
        { host: '127.0.0.1', port, path, ca: authority, headers: { accept: 'text/html,application/json' } },
        (answer) => {
          let text = '';
          answer.on('data', (piece) => (text += piece));
          answer.on('end', () => done({ status: answer.statusCode ?? 0, text }));
        },
      )
        .on('error', fail)
        .end();
    });
  try {
    for (const path of ['/api/session', '/sight/api/session']) {
      const { status, text } = await get(path);
      expect([path, status, JSON.parse(text).firstStart]).toEqual([path, 200, true]);
    }
    expect((await get('/sight')).status).toBe(301);
    for (const path of ['/sight/', '/sight/now?in=seaward', '/now'])
      expect([path, (await get(path)).text]).toEqual([path, expect.stringContaining('<base href="/sight/"')]);
  } finally {
    await app.close();
    rmSync(folder, { recursive: true, force: true });
  }
});

it('names a setting that does not fit the others', () => {
  const base = { ZETOPSIS_DATABASE_URL: 'postgres://a@b/c', ZETOPSIS_DATA_DIR: '/tmp' };
  expect(() => readConfig({ ...base, ZETOPSIS_TLS_KEY: '/dev/null' })).toThrow(
    /TLS_CERTIFICATE and ZETOPSIS_TLS_KEY go together/,
  );
  expect(() => readConfig({ ...base, ZETOPSIS_TRUST_PROXY: 'everybody' })).toThrow(
    /ZETOPSIS_TRUST_PROXY must name addresses/,
  );
});
