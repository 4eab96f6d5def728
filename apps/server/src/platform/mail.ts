import { createTransport, type Transporter } from 'nodemailer';

/** How a letter went. `again`: it may help to try later. */
export type Mailed =
  { ok: true; status: number } | { ok: false; reason: string; again: boolean; status: number | null };

export interface Letter {
  /** By it the receiving side knows a letter that comes twice. */
  id: string;
  to: string;
  subject: string;
  text: string;
}

/** Letters of ours, by the mail server that the settings name. */
export class Mailer {
  #transport: Transporter | null = null;

  constructor(
    private readonly server: string | null,
    private readonly from: string,
  ) {}

  get isThere(): boolean {
    return this.server !== null;
  }

  /** Hands one letter over. Never throws. */
  async send({ id, to, subject, text }: Letter): Promise<Mailed> {
    if (!this.server)
      return {
        ok: false,
        reason: 'this server has no mail server; set DARTLOOP_MAIL',
        again: false,
        status: null,
      };
    this.#transport ??= createTransport(this.server, {
      connectionTimeout: 5_000,
      socketTimeout: 15_000,
      disableFileAccess: true,
      disableUrlAccess: true,
    });
    try {
      await this.#transport.sendMail({ from: this.from, to, subject, text, messageId: `<${id}@dart-loop>` });
      return { ok: true, status: 250 };
    } catch (error) {
      const code = (error as { responseCode?: number }).responseCode ?? null;
      const reason =
        code === null ? 'the mail server could not be reached' : `the mail server refused it (${code})`;
      return { ok: false, reason, again: code === null || code < 500, status: code };
    }
  }

  close(): void {
    this.#transport?.close();
  }
}
