import { connect, type Socket } from 'node:net';
import nodemailer, { type SendMailOptions } from 'nodemailer';

/** One message, from connecting to its being taken; a server that answers drop by drop gets no longer. */
const LONGEST_CONVERSATION = 30_000; // ms

class TooSlow extends Error {
  readonly code = 'ETIMEDOUT';
}

/** Hands messages to the mail server, each in a conversation of its own that ends in time whatever the server does. */
export class Mailer {
  private readonly open = new Set<(error: Error) => void>();
  constructor(
    private readonly url: string,
    private readonly longest = LONGEST_CONVERSATION,
  ) {}

  async send(message: SendMailOptions): Promise<void> {
    let socket: Socket | null = null;
    let giveUp: (error: Error) => void = () => undefined;
    const ended = new Promise<never>((_, reject) => {
      giveUp = (error) => {
        socket?.destroy();
        reject(error);
      };
    });
    const timer = setTimeout(
      () => giveUp(new TooSlow(`the mail server took longer than ${this.longest / 1000} s for one message`)),
      this.longest,
    );
    this.open.add(giveUp);
    const transport = nodemailer.createTransport({
      url: this.url,
      connectionTimeout: 10_000,
      greetingTimeout: 10_000,
      socketTimeout: 20_000,
      getSocket: ({ host, port }, told) => {
        socket = connect({ host: host ?? 'localhost', port: Number(port) || 25 });
        // what goes wrong with it after the end of the conversation concerns nobody any more
        socket.on('error', () => undefined);
        socket.once('error', (error) => told(error));
        socket.once('connect', () => told(null, { connection: socket ?? undefined }));
      },
    });
    try {
      await Promise.race([transport.sendMail(message), ended]);
    } finally {
      clearTimeout(timer);
      this.open.delete(giveUp);
      transport.close();
    }
  }
  /** Ends all conversations at once: what was not taken is sent again after the next start. */
  close(): void {
    for (const giveUp of [...this.open]) giveUp(new Error('Zetopsis is ending'));
  }
}
