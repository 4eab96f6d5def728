import type { AddressInfo } from 'node:net';
import { SMTPServer } from 'smtp-server';

export interface Mail {
  from: string;
  to: string[];
  /** The whole message with its headers, as it came. */
  raw: string;
  at: number;
}

/** A mail server that takes everything and hands nothing on. */
export class MailStandin {
  readonly mails: Mail[] = [];
  /** Refuses what comes, with this SMTP code, until it is null again. */
  refuse: number | null = null;
  port = 0;
  #server: SMTPServer | null = null;

  async start(port = 0): Promise<number> {
    const server = new SMTPServer({
      authOptional: true,
      disabledCommands: ['STARTTLS', 'AUTH'],
      onData: (stream, session, done) => {
        let raw = '';
        stream.on('data', (piece: Buffer) => (raw += piece.toString('utf8')));
        stream.on('end', () => {
          if (this.refuse !== null)
            return done(Object.assign(new Error('refused for a test'), { responseCode: this.refuse }));
          const { mailFrom, rcptTo } = session.envelope;
          this.mails.push({
            from: mailFrom ? mailFrom.address : '',
            to: rcptTo.map((each) => each.address),
            raw,
            at: Date.now(),
          });
          if (this.mails.length > 1_000) this.mails.shift();
          done();
        });
      },
    });
    server.on('error', () => undefined);
    this.#server = server;
    await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', () => resolve()));
    this.port = (server.server.address() as AddressInfo).port;
    return this.port;
  }

  stop(): Promise<void> {
    return new Promise((resolve) => (this.#server ? this.#server.close(() => resolve()) : resolve()));
  }
}
