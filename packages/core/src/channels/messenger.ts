import { CHANNEL_NAMES } from './names';
import type { Channel, Outgoing } from './channel';
import { fitLabels } from './labels';
import { CHOICES, QUICK_REPLIES, WINDOW, withQuickReplies } from './quickReplies';
import { within } from './text';

/**
 * Messenger's Send API: text 2,000 characters; button template: text 640, 3 buttons, title 20; cards: title
 * 80, 3 buttons.
 */
export const MESSENGER = {
  text: 2_000,
  template: 640,
  button: 20,
  card: 80,
  ...QUICK_REPLIES,
  quickReply: QUICK_REPLIES.title,
} as const;

export const messenger: Channel = {
  kind: 'messenger',
  ...CHANNEL_NAMES.messenger,
  taps: true,
  refs: true,
  window: WINDOW,
  choices: CHOICES,
  menus: {
    'standing menu': { most: 20, label: 30 },
    'opening suggestions': { most: 4, label: 80 },
    greeting: 160,
  },
  comments: true,
  ads: true,
  link: (account, carries) =>
    `https://m.me/${account.username ?? account.id}${'ref' in carries ? `?ref=${carries.ref}` : ''}`,
  room: ({ text, as }) => ({
    used: text.length,
    most: as === 'card' ? MESSENGER.card : as === 'link button' ? MESSENGER.template : MESSENGER.text,
    of: 'characters',
  }),
  /**
   * Choices are quick replies; a link is a button below the text, or a card where it has a title or picture.
   * Quick replies stand under whatever comes last.
   */
  render(said) {
    const { link } = said;
    if (!link) return withQuickReplies('messenger', said, said.text, said.media, within(MESSENGER.text));
    const label = fitLabels([link.label], MESSENGER.button)[0]!;
    const text = label === link.label.trim() ? said.text : `${said.text.trim()}\n\n${link.label}`;
    const taps = [{ label, url: link.address }];
    const card = link.title !== undefined || link.image !== undefined;
    const whole =
      !card && said.choices.length === 0 && text.trim() !== '' && text.trim().length <= MESSENGER.template;
    const linked: Outgoing = {
      channel: 'messenger',
      text: whole ? text.trim() : fitLabels([link.title ?? link.label], MESSENGER.card)[0]!,
      taps,
      as: card ? 'card' : 'link button',
      ...(link.image && { media: { what: 'image', address: link.image } }),
    };
    const alone = { ...said, typing: undefined };
    const rest = (choices: typeof said.choices, words: string) =>
      withQuickReplies('messenger', { ...alone, choices }, words, said.media, within(MESSENGER.text));
    // Quick replies vanish with the next message, so they and their text come last.
    const messages =
      said.choices.length > 0
        ? [linked, ...rest(said.choices, text)]
        : [...rest([], whole ? '' : text), linked];
    return messages.map((message, index) =>
      index === 0 && said.typing ? { ...message, typing: said.typing } : message,
    );
  },
};
