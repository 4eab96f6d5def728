import { CHANNEL_NAMES } from './names';
import type { Channel } from './channel';
import { CHOICES, WINDOW, withQuickReplies } from './quickReplies';

/**
 * Instagram messaging: text 1,000 bytes in UTF-8; quick replies as on Messenger; no buttons, and no files but
 * pictures, videos and recordings.
 */
export const INSTAGRAM = { textBytes: 1_000 } as const;

/** Bytes of a text in UTF-8. */
export function utf8Bytes(text: string): number {
  let bytes = 0;
  for (let at = 0; at < text.length; at++) {
    const unit = text.charCodeAt(at);
    // The two halves of a pair count two each.
    bytes += unit < 0x80 ? 1 : unit < 0x800 || (unit >= 0xd800 && unit <= 0xdfff) ? 2 : 3;
  }
  return bytes;
}

export const instagram: Channel = {
  kind: 'instagram',
  ...CHANNEL_NAMES.instagram,
  taps: true,
  refs: true,
  window: WINDOW,
  choices: CHOICES,
  menus: { 'standing menu': { most: 5, label: 30 }, 'opening suggestions': { most: 4, label: 80 } },
  comments: true,
  ads: true,
  link: (account, carries) =>
    `https://ig.me/m/${account.username}${'ref' in carries ? `?ref=${carries.ref}` : ''}`,
  room: ({ text }) => ({ used: utf8Bytes(text), most: INSTAGRAM.textBytes, of: 'bytes' }),
  /** Choices are quick replies; a link and a file stand as addresses in the text. */
  render(said) {
    const { link, media } = said;
    const file = media?.what === 'file' ? media : undefined;
    const text = [
      said.text.trim(),
      ...(link ? [`${link.title ?? link.label}: ${link.address}`] : []),
      ...(file ? [file.address] : []),
    ]
      .filter((line) => line !== '')
      .join('\n');
    const picture = file
      ? undefined
      : (media ?? (link?.image ? { what: 'image' as const, address: link.image } : undefined));
    return withQuickReplies(
      'instagram',
      said,
      text,
      picture,
      (piece) => utf8Bytes(piece) <= INSTAGRAM.textBytes,
    );
  },
};
