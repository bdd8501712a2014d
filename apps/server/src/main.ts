import 'reflect-metadata';
import type { AddressInfo } from 'node:net';
import { fileURLToPath } from 'node:url';
import { AccessService } from './asking/access/access.service.ts';
import { createApp } from './bootstrap.ts';
import { BegunAnew } from './ground/platform/begunAnew.ts';
import { ConfigError, readConfig } from './ground/platform/config.ts';
import { Unforeseen } from './ground/platform/unforeseen.ts';
import { migrate } from './keeping/tables/database.ts';

/** Whatever hangs, the end is not held up by it: what is accepted is durable already. */
const LONGEST_END = 9000; // ms
function endInTime(): void {
  setTimeout(() => {
    console.error(
      `Zetopsis did not end by itself within ${LONGEST_END / 1000} s: something outside holds it up. It ends now.`,
    );
    process.exit(1);
  }, LONGEST_END).unref();
}

try {
  const given = readConfig(process.env);
  const config = { ...given, webDir: given.webDir ?? fileURLToPath(new URL('../../web/dist', import.meta.url)) };
  await migrate(config.databaseUrl);
  const app = await createApp(config);
  await app.listen(config.port, config.host);
  const unforeseen = app.get(Unforeseen, { strict: false });
  process.on('uncaughtException', (error) => unforeseen.note(error));
  process.on('unhandledRejection', (error) => unforeseen.note(error));
  for (const signal of ['SIGTERM', 'SIGINT'] as const) process.once(signal, endInTime);
  const { port } = app.getHttpServer().address() as AddressInfo; // listening on TCP
  const scheme = config.tls === null ? 'http' : 'https';
  console.log(`Zetopsis listens on ${scheme}://${config.host}:${port} and calls itself ${config.publicUrl}`);
  // whoever keeps it running says why it does so again
  const why = process.env['ZETOPSIS_BEGUN_ANEW'];
  if (why) app.get(BegunAnew, { strict: false }).note('The server', why.slice(0, 200));
  const code = await app.get(AccessService, { strict: false }).firstStartCode();
  if (code !== null)
    console.log(
      `Nobody has an account yet. Open the address and make the administrator with this one-time code: ${code}`,
    );
} catch (error) {
  console.error(error instanceof ConfigError ? error.message : error);
  process.exit(1);
}
