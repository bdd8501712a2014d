import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { type AddressInfo, connect, type Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { MailServer } from './mailServer.js';

const folders: string[] = [];
const servers: MailServer[] = [];

async function started(): Promise<number> {
  const folder = mkdtempSync(join(tmpdir(), 'mails-'));
  folders.push(folder);
  const mail = new MailServer(folder);
  servers.push(mail);
  mail.smtp.listen(0, '127.0.0.1');
  await once(mail.smtp.server, 'listening');
  return (mail.smtp.server.address() as AddressInfo).port;
}

/** Says each line once the one before was answered. */
async function say(socket: Socket, lines: readonly string[]): Promise<string> {
  let answer = String((await once(socket, 'data'))[0]);
  for (const line of lines) {
    socket.write(`${line}\r\n`);
    answer = String((await once(socket, 'data'))[0]);
  }
  return answer;
}

afterEach(async () => {
  for (const { smtp } of servers.splice(0)) await new Promise<void>((done) => smtp.close(() => done()));
  for (const folder of folders.splice(0)) rmSync(folder, { recursive: true, force: true });
});

describe('the mail server of the stand-in', () => {
  it('outlives a sender that resets its connection in the middle of a message', async () => {
    const port = await started();
    const rude = connect(port, '127.0.0.1');
    expect(await say(rude, ['EHLO harbour', 'MAIL FROM:<a@harbour.test>', 'RCPT TO:<b@harbour.test>', 'DATA'])).toMatch(
      /^354/,
    );
    expect(servers[0]!.smtp.connections.size).toBe(1);
    rude.resetAndDestroy();
    await vi.waitFor(() => expect(servers[0]!.smtp.connections.size).toBe(0));
    const polite = connect(port, '127.0.0.1');
    expect(await say(polite, ['EHLO harbour'])).toMatch(/^250/);
    polite.end();
  });
});
