import { type AddressInfo, createServer, type Server } from 'node:net';
import { afterEach, describe, expect, it } from 'vitest';
import { Mailer } from './mailer.ts';

/** A mail server that says what it is told to, line by line. */
function mailServer(answer: (line: string, say: (text: string) => void) => void): Promise<Server> {
  const server = createServer((socket) => {
    socket.on('error', () => undefined);
    const say = (text: string) => socket.write(text);
    answer('', say);
    socket.on('data', (data: Buffer) => {
      for (const line of data.toString().split('\r\n')) if (line !== '') answer(line, say);
    });
  });
  return new Promise((done) => {
    server.listen(0, '127.0.0.1', () => done(server));
  });
}
const message = { from: 'z@skerrivale.test', to: 'ferries@skerrivale.test', subject: 'lamp', text: 'out' };

describe('a conversation with a mail server', () => {
  const servers: Server[] = [];
  const drips: NodeJS.Timeout[] = [];
  afterEach(() => {
    for (const drip of drips.splice(0)) clearInterval(drip);
    for (const server of servers.splice(0)) server.close();
  });
  const dripping = async () => {
    // a line that goes on, often enough that no pause between two of them is long
    const server = await mailServer((line, say) => {
      if (line === '') drips.push(setInterval(() => say('220-still\r\n'), 10));
    });
    servers.push(server);
    return `smtp://127.0.0.1:${(server.address() as AddressInfo).port}`;
  };

  it('ends in time, though the server goes on saying a little', async () => {
    const mailer = new Mailer(await dripping(), 150);
    await expect(mailer.send(message)).rejects.toThrow(/took longer than 0.15 s for one message/);
  });
  it('ends at once when Zetopsis does', async () => {
    const mailer = new Mailer(await dripping());
    const sent = mailer.send(message);
    sent.catch(() => undefined);
    setTimeout(() => mailer.close(), 50);
    await expect(sent).rejects.toThrow(/Zetopsis is ending/);
  });
  it('hands the message over to a server that takes it', async () => {
    const heard: string[] = [];
    const server = await mailServer((line, say) => {
      heard.push(line);
      if (line === '') say('220 here\r\n');
      else if (/^EHLO/.test(line)) say('250 here\r\n');
      else if (/^DATA/.test(line)) say('354 go on\r\n');
      else if (/^(MAIL|RCPT|QUIT)/.test(line) || line === '.') say('250 fine\r\n');
    });
    servers.push(server);
    await new Mailer(`smtp://127.0.0.1:${(server.address() as AddressInfo).port}`).send(message);
    expect(heard).toContain('Subject: lamp');
  });
});
