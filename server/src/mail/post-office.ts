import { createTransport, type Transporter } from 'nodemailer'
import type { Logger } from 'pino'
import { startMail, type MailService } from '../standins/mail.js'

const FROM = 'Tin Harbor <letters@tin-harbor.example>'
const WAITS_MS = 5_000

/** Sends letters: to a mail service that was named, or to the stand-in, whose outbox can be read. */
export class PostOffice {
  private constructor(
    private readonly transport: Transporter,
    /** Null where letters really go out. */
    readonly standIn: MailService | null,
    private readonly log: Logger
  ) {}

  /** @param url `smtp://…` of a mail service; null for the stand-in */
  static async open(url: string | null, log: Logger): Promise<PostOffice> {
    const standIn = url === null ? await startMail() : null
    const address = url ?? (standIn as MailService).smtp
    const transport = createTransport({ url: address, connectionTimeout: WAITS_MS, greetingTimeout: WAITS_MS, socketTimeout: WAITS_MS })
    return new PostOffice(transport, standIn, log)
  }

  get outbox(): string | null {
    return this.standIn?.outbox ?? null
  }

  /** @returns whether it was taken; one that was not is in the log, without what stood in it */
  async send(to: string, { subject, text }: { subject: string; text: string }): Promise<boolean> {
    try {
      await this.transport.sendMail({ from: FROM, to: { name: '', address: to }, subject, text, textEncoding: 'quoted-printable' })
      return true
    } catch (err) {
      this.log.warn({ err, subject }, 'a letter could not be sent')
      return false
    }
  }

  async close(): Promise<void> {
    this.transport.close()
    await this.standIn?.close()
  }
}
