import { BOT, NUMBER, type Stage } from './stage';

export const CHANNELS = ['telegram', 'sms', 'messenger', 'instagram', 'whatsapp'] as const;
export type OnChannel = (typeof CHANNELS)[number];

const LINES: Record<'messenger' | 'instagram' | 'whatsapp', string> = {
  messenger: 'messenger:100220022',
  instagram: 'instagram:178410011',
  whatsapp: 'whatsapp:106540022',
};
/** The clients whose lines these are. */
export const CLIENTS = ['saltmarsh-ferries', 'bramble-row-nursery', 'orrery-picture-house'];

/**
 * Somebody who writes on one of the five channels. `n`: a number of four digits that tells them from others.
 */
export class Person {
  constructor(
    private readonly stage: Stage,
    readonly channel: OnChannel,
    private readonly n: number,
  ) {}

  /** How they are named on their channel. */
  get who(): string {
    const { channel, n } = this;
    return channel === 'telegram'
      ? `62${n}`
      : channel === 'sms'
        ? `+44770093${n}`
        : channel === 'whatsapp'
          ? `+44770094${n}`
          : `2410000${n}`;
  }

  /** Resolves once the platform has handed it over, however often it had to; false when it has given up. */
  writes(text: string): Promise<boolean> {
    const { channel, who, stage } = this;
    if (channel === 'telegram') return stage.standins.telegram.write(BOT, who, 'Mira', text);
    if (channel === 'sms') return stage.standins.sms.write(NUMBER, who, text);
    return stage.standins.graph.act(LINES[channel], who, { do: 'write', name: 'Mira Leask', text });
  }

  /**
   * What they have heard from us, in order, and when the platform took it, in ms; Telegram says that to the
   * second, the one it was in.
   */
  heardAt(): { text: string; at: number }[] {
    const { channel, who, stage } = this;
    const messages: { from: string; text: string; at: number }[] =
      channel === 'telegram'
        ? stage.standins.telegram
            .look(BOT, who)
            .map(({ date, ...message }) => ({ ...message, at: date * 1_000 }))
        : channel === 'sms'
          ? stage.standins.sms.look(NUMBER, who)
          : stage.standins.graph
              .look(LINES[channel], who)
              .messages.map(({ at, ...message }) => ({ ...message, at: Date.parse(at) }));
    return messages.filter(({ from }) => from !== 'person').map(({ text, at }) => ({ text, at }));
  }

  heard(): string[] {
    return this.heardAt().map(({ text }) => text);
  }
}

/**
 * Two loops on every line of the three clients: who writes "one" hears "First.", who writes "two" hears
 * "Second.".
 */
export async function publishOneAndTwo(stage: Stage): Promise<void> {
  for (const client of CLIENTS)
    for (const [word, text] of [
      ['one', 'First.'],
      ['two', 'Second.'],
    ])
      await stage.publish(
        `{ format: dart-loop/1, name: Crowd ${word}, cues: [{ kind: keyword, words: [${word}], match: exactly }], scenes: [{ name: S, steps: [{ kind: say, text: ${text} }] }] }`,
        client,
      );
}
