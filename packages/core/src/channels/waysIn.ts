import { create } from 'qrcode';
import type { ChannelKind } from '../model/client';
import type { Loop } from '../model/loop';

/** A line as people are sent to it: `account` is what may be shown of it, such as the bot's name or the number. */
export interface LineAddress {
  key: string;
  name: string;
  channel: ChannelKind;
  account: Record<string, string>;
}

/** One way for a person to start a loop on a line. */
export interface WayIn {
  lineKey: string;
  cueId: string;
  /** What to tell people: "Write SAILINGS to +44 7700 900144". */
  words: string;
  /** What a link or QR code opens; null where the channel has no link that does it. */
  link: string | null;
}

/**
 * Every way into a loop that can be handed out: a link with its reference, a keyword to write. On Telegram a link carries
 * the reference (`t.me/BOT?start=CODE`); on SMS it opens a message with the keyword in it (RFC 5724).
 */
export function waysIn(loop: Loop, lines: LineAddress[]): WayIn[] {
  return loop.cues.flatMap((cue) => {
    const own = cue.lines?.length ? cue.lines : loop.lines;
    const here = lines.filter((line) => own.length === 0 || own.includes(line.key));
    if (cue.kind === 'link')
      return here
        .filter((line) => line.channel === 'telegram')
        .map((line): WayIn => {
          const link = `https://t.me/${line.account.username}?start=${cue.ref}`;
          return { lineKey: line.key, cueId: cue.id, words: `Open ${link.replace('https://', '')}`, link };
        });
    if (cue.kind !== 'keyword' || cue.match === 'pattern') return [];
    const word = cue.words[0]!;
    return here.map((line): WayIn => ({
      lineKey: line.key,
      cueId: cue.id,
      words: `Write ${word} to ${line.name}`,
      link:
        line.channel === 'sms' ? `sms:${line.account.number}?body=${encodeURIComponent(word)}` : `https://t.me/${line.account.username}`,
    }));
  });
}

const QUIET_ZONE = 4;

/** A QR code as an SVG picture with a caption under it; error correction M, four modules of quiet zone, as ISO/IEC 18004 asks. */
export function qrSvg(text: string, caption: string): string {
  const { modules } = create(text, { errorCorrectionLevel: 'M' });
  const size = modules.size + 2 * QUIET_ZONE;
  const path: string[] = [];
  for (let row = 0; row < modules.size; row++)
    for (let column = 0; column < modules.size; column++)
      if (modules.get(row, column)) path.push(`M${column + QUIET_ZONE} ${row + QUIET_ZONE}h1v1h-1z`);
  const name = caption.replace(/[<>&"]/g, (sign) => `&#${sign.charCodeAt(0)};`);
  const height = size + 4;
  // The caption shrinks so that a long name stays within the picture.
  const fontSize = Math.min(3, (size - 2) / (Math.max(1, [...caption].length) * 0.6));
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${size} ${height}" width="${size * 8}" height="${height * 8}" shape-rendering="crispEdges" role="img" aria-label="QR code">`,
    `<rect width="${size}" height="${height}" fill="#ffffff"/>`,
    `<path d="${path.join('')}" fill="#1E2330"/>`,
    `<text x="${size / 2}" y="${size + 1}" font-size="${fontSize.toFixed(2)}" font-family="Atkinson Hyperlegible, sans-serif" text-anchor="middle" fill="#1E2330">${name}</text>`,
    '</svg>',
  ].join('');
}
