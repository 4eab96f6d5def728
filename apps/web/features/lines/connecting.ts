import type { ChannelKind } from '@dart-loop/core';
import { NUMBER_KINDS } from '@dart-loop/core/channels/numberKinds';

/** What a builder types to connect a line, in the order in which it is found. */
export interface ConnectField {
  name: string;
  label: string;
  /** Where the builder finds it. */
  hint: string;
  placeholder?: string;
  secret?: boolean;
  inputMode?: 'tel' | 'numeric';
  /** Where one of these is chosen: the first, unless another is. */
  options?: [value: string, label: string][];
  /**
   * What stands in the way of what was typed, while it is typed; null when it has the right shape or is
   * empty.
   */
  problem?(typed: string): string | null;
}

/** What has to be so before any of the fields can be filled. */
export interface Connecting {
  button: string;
  before: string | null;
  fields: ConnectField[];
}

const TOKEN = /^\d{6,12}:[A-Za-z0-9_-]{35}$/;

export function tokenProblem(typed: string): string | null {
  const token = typed.trim();
  if (token === '' || TOKEN.test(token)) return null;
  if (!/^\d+:?/.test(token)) return 'A token begins with digits, such as 7001234567:AAE…';
  if (!token.includes(':')) return 'After the digits comes a colon, then 35 characters.';
  const rest = token.slice(token.indexOf(':') + 1);
  if (/[^A-Za-z0-9_-]/.test(rest))
    return 'After the colon only letters, digits, hyphens and underscores are allowed.';
  return `After the colon stand 35 characters; there ${rest.length === 1 ? 'is 1' : `are ${rest.length}`}.`;
}

const digitsProblem = (typed: string): string | null =>
  typed.trim() === '' || /^\d{5,20}$/.test(typed.trim())
    ? null
    : 'It is a number of 5 to 20 digits, without spaces.';

function appSecretProblem(typed: string): string | null {
  const secret = typed.trim();
  if (secret === '' || /^[0-9a-f]{32}$/i.test(secret)) return null;
  if (/[^0-9a-f]/i.test(secret)) return 'It consists of digits and the letters a to f.';
  return `It has 32 characters; there ${secret.length === 1 ? 'is 1' : `are ${secret.length}`}.`;
}

const APP: ConnectField[] = [
  {
    name: 'appId',
    label: 'App id',
    hint: 'The number at the top of your app’s page for developers.',
    placeholder: '700100200300',
    inputMode: 'numeric',
    problem: digitsProblem,
  },
  {
    name: 'appSecret',
    label: 'App secret',
    hint: 'On the same page, under basic settings. It proves that what comes in is the platform’s.',
    secret: true,
    problem: appSecretProblem,
  },
];
const accessToken = (hint: string): ConnectField => ({
  name: 'token',
  label: 'Access token',
  hint: `${hint} Pasting a newer one of a connected account renews it, and nothing is lost.`,
  placeholder: 'EAA…',
  secret: true,
});

export const CONNECTING: Record<ChannelKind, Connecting> = {
  messenger: {
    button: 'Messenger page',
    before:
      'You need an app on the platform’s page for developers, and the right to manage the client’s page.',
    fields: [...APP, accessToken('In the app’s Messenger settings, add the page and make a token for it.')],
  },
  instagram: {
    button: 'Instagram account',
    before:
      'The account must be a business account, tied to a page, and must allow access to messages (in its settings, under messages and connected tools). Nothing arrives otherwise.',
    fields: [
      ...APP,
      accessToken(
        'The token of the page that the account is tied to, with the permissions for its messages and comments.',
      ),
    ],
  },
  whatsapp: {
    button: 'WhatsApp number',
    before:
      'The number must be registered for the API; one that is used in the app on a phone cannot be connected as well.',
    fields: [
      ...APP,
      {
        name: 'numberId',
        label: 'Id of the number',
        hint: 'On the app’s WhatsApp page, below the number that is chosen there. It is not the telephone number.',
        inputMode: 'numeric',
        problem: digitsProblem,
      },
      {
        name: 'wabaId',
        label: 'Id of the business account',
        hint: 'On the same page, beside it.',
        inputMode: 'numeric',
        problem: digitsProblem,
      },
      accessToken(
        'Make a lasting token for a system user who may manage the number; the one shown on that page ends after a day.',
      ),
    ],
  },
  telegram: {
    button: 'Telegram bot',
    before: null,
    fields: [
      {
        name: 'token',
        label: 'Bot token',
        hint: 'Telegram’s BotFather gives it when the bot is made. Pasting a newer token of a connected bot renews it.',
        placeholder: '7001234567:AAE…',
        problem: tokenProblem,
      },
    ],
  },
  sms: {
    button: 'SMS number',
    before: null,
    fields: [
      {
        name: 'number',
        label: 'Number',
        hint: 'The number that people write to.',
        placeholder: '+44 7700 900123',
        inputMode: 'tel',
      },
      {
        name: 'numberKind',
        label: 'Kind of number',
        hint: 'Says how many messages a second carriers take from it.',
        options: Object.entries(NUMBER_KINDS).map(([kind, { words, perSecond }]) => [
          kind,
          `${words}, ${perSecond} a second`,
        ]),
      },
      {
        name: 'key',
        label: 'Gateway key',
        hint: 'Allows sending. The gateway shows it on the number’s page.',
        secret: true,
      },
      {
        name: 'signing',
        label: 'Signing secret',
        hint: 'Beside it. Proves that incoming messages are the gateway’s.',
        secret: true,
      },
    ],
  },
};
