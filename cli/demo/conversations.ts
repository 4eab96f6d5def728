import type { ChannelKind } from '@dart-loop/core';
import type { PhoneView } from '../../apps/standins/src/phone';
import { postJson } from '../api';
import { standinName } from './clients';
import { readKinds, readNames, type Says, type World } from './world';

const DAY = 86_400_000;

export interface Act {
  at: number;
  channel: ChannelKind;
  line: string;
  who: string;
  name: string;
  says: Exclude<Says, { later: string }>;
}

/** What somebody does, for the stand-in's telephone. A label may be cut on the button that bears it. */
export async function doingOf({ channel, line, who, name, says }: Act, standins: string): Promise<object> {
  if (typeof says === 'string') return { do: 'write', text: says };
  if ('comment' in says) return { do: 'comment', postId: says.on, text: says.comment };
  if ('ad' in says) return { do: 'click ad', adId: says.ad };
  if ('link' in says) return { do: 'open link', ref: says.link };
  const shown = (text: string) =>
    text === says.tap || (text.endsWith('…') && says.tap.startsWith(text.slice(0, -1)));
  const { messages } = await postJson<PhoneView>(`${standins}/phone/look`, { channel, line, who });
  const message = messages.findLast((each) => each.buttons.some((button) => shown(button.text)));
  const button = message?.buttons.find((each) => shown(each.text));
  if (!message || !button) throw new Error(`the demo conversation of ${name} finds no button “${says.tap}”`);
  return { do: 'tap', messageId: message.id, data: button.data };
}

/** Who somebody is on a channel, by their number in the demo. */
const WHO: Record<ChannelKind, (number: string) => string> = {
  messenger: (number) => `2410000000000${number}`,
  instagram: (number) => `17800000000000${number}`,
  whatsapp: (number) => `+447700900${number}`,
  telegram: (number) => `61000${number}`,
  sms: (number) => `+447700900${number}`,
};

/**
 * The week's conversations: the same for the same moment, spread over waking hours, the unanswered ones last.
 */
export function conversations(world: World, now: number): Act[] {
  const kinds = readKinds();
  const names = readNames();
  let seed = 20_261;
  const chance = () => {
    // mulberry32
    seed = (seed + 0x6d2b79f5) | 0;
    let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
  const acts: Act[] = [];
  let person = 0;
  for (const kind of kinds) {
    const client = world.clients.find((each) => each.slug === kind.client)!;
    const line = client.lines.find((each) => each.channel === kind.line)!;
    for (let time = 0; time < kind.times; time++) {
      person++;
      const first = names.first[(person * 7) % names.first.length]!;
      const last = names.last[(person * 4) % names.last.length]!;
      const number = String(person).padStart(3, '0');
      const fill: Record<string, string> = {
        '{email}': `${first}.${last}@example.org`.toLowerCase(),
        '{bad email}': `${first.toLowerCase()} at example`,
        '{number}': String(1 + Math.floor(chance() * 5)),
        '{phone}': `07700 900 ${number}`,
      };
      const day = kind.times === 1 ? 0 : Math.floor(chance() * 7);
      let at =
        kind.times === 1
          ? now - Math.round((0.2 + chance() * 1.5) * 3_600_000)
          : Math.min(now - 3_600_000 * (1 + chance() * 9), now - day * DAY - chance() * 9 * 3_600_000);
      for (const says of kind.says) {
        if (typeof says === 'object' && 'later' in says) {
          at += Number.parseInt(says.later) * 3_600_000;
          continue;
        }
        acts.push({
          at: Math.min(at, now - 60_000),
          channel: kind.line,
          line: standinName(line),
          who: WHO[kind.line](number),
          name: `${first} ${last}`.slice(0, 40),
          says: typeof says === 'string' ? says.replace(/\{[a-z ]+\}/g, (key) => fill[key] ?? key) : says,
        });
        at += 20_000 + chance() * 240_000;
      }
    }
  }
  return acts.sort((a, b) => a.at - b.at);
}
