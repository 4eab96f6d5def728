import { CannotBeDone, inventedNumber, type Phone, type PhoneButton, type PhoneMessage } from './phone';
import type { SmsStandin } from './sms';
import type { TelegramStandin } from './telegram';

/** The telephones of those who write on Telegram and by SMS. */

export function telegramPhone(telegram: TelegramStandin): Phone {
  return {
    somebody: (bot) => telegram.somebody(bot),
    look: (bot, who) => ({
      messages: telegram.look(bot, who).map((message): PhoneMessage => {
        const buttons = message.keyboard
          .flat()
          .map((button): PhoneButton => ({ text: button.text, data: button.callback_data, url: button.url }));
        return {
          id: String(message.message_id),
          from: message.from === 'person' ? 'person' : 'line',
          text: message.text,
          at: new Date(message.date * 1_000).toISOString(),
          buttons,
          as: buttons.length > 0 ? 'keyboard' : 'none',
          ...(message.media && { media: message.media }),
        };
      }),
      posts: [],
      ads: [],
      greeting: null,
      menu: (telegram.bot(bot)?.commands ?? []).map(({ command, description }) => ({
        item: command,
        label: description,
      })),
      blocked: telegram.bot(bot)?.chats.get(who)?.blocked ?? false,
    }),
    async act(bot, who, what) {
      switch (what.do) {
        case 'write':
          return telegram.write(bot, who, what.name, what.text);
        case 'tap':
          return telegram.tap(bot, who, Number(what.messageId), what.data);
        case 'open link':
          return telegram.write(bot, who, what.name, `/start ${what.ref}`);
        case 'menu':
          return telegram.write(bot, who, what.name, `/${what.item}`);
        case 'send':
          return telegram.send(bot, who, what.name, what.what);
        case 'block':
          return telegram.block(bot, who, what.is);
        default:
          throw new CannotBeDone(
            'Telegram has neither posts nor ads, and tells nothing of what is written elsewhere',
          );
      }
    },
  };
}

export function smsPhone(sms: SmsStandin): Phone {
  return {
    somebody: (_number, taken) => inventedNumber(taken),
    look: (number, who) => ({
      messages: sms.look(number, who).map((message): PhoneMessage => ({
        id: message.id,
        from: message.from,
        text: message.text,
        at: new Date(message.at).toISOString(),
        buttons: [],
        as: 'none',
      })),
      posts: [],
      ads: [],
      greeting: null,
      menu: [],
      blocked: false,
    }),
    async act(number, who, what) {
      if (what.do === 'write') return sms.write(number, who, what.text);
      if (what.do === 'open link') return sms.write(number, who, what.ref);
      if (what.do === 'send' && what.what === 'picture') return sms.write(number, who, '', 1);
      throw new CannotBeDone('a number takes texts and pictures, and nothing else');
    },
  };
}
