import type { ChannelKind } from '../people/client';
import type { Loop } from '../loops/model/loop';
import { isHeardOn } from '../engine/decide/cueIndex';
import { CHANNELS } from './index';
import { inHtml } from './html';
import { qrSvg } from './qr';

/**
 * A line as people are sent to it: `account` is what may be shown of it, such as the bot's name or the
 * number.
 */
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
  /** What a link or QR code opens; null where there is none that does it. */
  link: string | null;
}

/**
 * Every way into a loop that can be handed out or pointed to: links that carry a reference or a prefilled
 * keyword, words to write, comments to make, ads to click, menus to tap. Cues that nobody can be sent to
 * (tags, dates, silence) give none.
 */
export function waysIn(loop: Loop, lines: LineAddress[]): WayIn[] {
  return loop.cues.flatMap((cue) => {
    const here = lines.filter((line) => isHeardOn(loop, cue, line.key));
    return here.flatMap((line): WayIn[] => {
      const { link, refs, menus, comments, ads, name } = CHANNELS[line.channel];
      const way = (words: string, address: string | null): WayIn[] => [
        { lineKey: line.key, cueId: cue.id, words, link: address },
      ];
      switch (cue.kind) {
        case 'link': {
          const address = link(line.account, refs ? { ref: cue.ref } : { words: cue.ref });
          return way(`Open ${address.replace(/^https:\/\//, '')}`, address);
        }
        case 'keyword':
          if (cue.match === 'pattern') return [];
          return way(`Write ${cue.words[0]!} to ${line.name}`, link(line.account, { words: cue.words[0]! }));
        case 'comment': {
          if (!comments) return [];
          const posts =
            cue.posts === 'any'
              ? 'any post'
              : cue.posts === 'from now on'
                ? 'a new post'
                : 'one of the posts';
          return way(
            `Comment ${cue.with ? `${cue.with[0]!.toUpperCase()} ` : ''}under ${posts} of ${line.name} on ${name}`,
            null,
          );
        }
        case 'ad click':
          if (!ads) return [];
          return way(
            cue.ads
              ? `Click the ad ${cue.ads.join(' or ')} on ${name}`
              : `Click the ad with the reference ${cue.ref} on ${name}`,
            null,
          );
        case 'menu tap':
          if (Object.keys(menus).length === 0) return [];
          return way(
            menus.commands
              ? `Send /${cue.item} to ${line.name}`
              : `Tap “${cue.item}” in the menu of ${line.name} on ${name}`,
            null,
          );
        default:
          return [];
      }
    });
  });
}

/** A link as a button for a client's website: plain HTML, that runs nothing and tells nobody. */
export const buttonHtml = (link: string, words: string): string =>
  `<a href="${inHtml(link)}" style="display:inline-block;padding:12px 20px;border-radius:6px;background:#1E2330;color:#fff;font:bold 16px/1.4 sans-serif;text-decoration:none">${inHtml(words)}</a>`;

/** A QR code for a client's website, which is a link too; `picture` is the address it is drawn at. */
export const codeHtml = (link: string, picture: string, words: string): string =>
  `<a href="${inHtml(link)}"><img src="${inHtml(picture)}" alt="${inHtml(words)}" width="160" height="176"></a>`;

/**
 * All ways into a loop as one page of HTML that needs nothing else: to print, to save, to send to the client.
 */
export function waysInSheet(
  client: string,
  loop: string,
  ways: { words: string; link: string | null; channel: ChannelKind }[],
): string {
  const rows = ways.map(({ words, link, channel }) => {
    const code = link ? `<div class="code">${qrSvg(link, client)}</div>` : '';
    const address = link ? `<p class="link">${inHtml(link)}</p>` : '';
    return `<li>${code}<div><p class="channel">${inHtml(CHANNELS[channel].name)}</p><p class="words">${inHtml(words)}</p>${address}</div></li>`;
  });
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${inHtml(`${client}: ways into ${loop}`)}</title><style>
body { font: 16px/1.5 "Atkinson Hyperlegible", Verdana, sans-serif; color: #1E2330; margin: 2rem auto; max-width: 44rem; padding: 0 1rem; }
h1 { font-size: 1.6rem; margin: 0; } ul { list-style: none; padding: 0; } p { margin: 0; }
li { display: flex; gap: 1.5rem; align-items: center; padding: 1rem 0; border-top: 1px solid #E2DACB; break-inside: avoid; }
.code svg { width: 9rem; height: auto; display: block; } .words { font-weight: bold; } .channel { color: #5B6270; }
.link { font: 13px/1.4 "IBM Plex Mono", monospace; overflow-wrap: anywhere; }
</style></head><body><h1>${inHtml(client)}</h1><p>Ways into ${inHtml(loop)}</p><ul>${rows.join('')}</ul></body></html>
`;
}
