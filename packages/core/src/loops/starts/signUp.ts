import type { Start } from './start';

export const signUp: Start = {
  name: 'Collect email addresses',
  words: 'Asks whether you may write, then for the address, and reminds once.',
  file: `format: dart-loop/1
name: Newsletter
cues:
  - { kind: keyword, words: [NEWS, JOIN], match: exactly }
scenes:
  - id: ask
    name: May we write
    steps:
      - kind: say
        text: May we write to you by email about news and offers? You can end it at any time.
        choices:
          - { label: Yes please, to: address }
          - { label: No thanks, to: no }
        retry: { times: 1, text: 'Shall we write to you, yes or no?' }
        otherwise: no
        noReply: { after: 1d, to: end }
  - id: address
    name: The address
    steps:
      - kind: ask
        text: What is your email address?
        reply: email
        field: email
        retry: { times: 2, text: 'An address looks like name@example.org. What is yours?' }
        otherwise: no
        reminders: [{ after: 3h, text: 'One thing is missing: your email address.' }]
        noReply: { after: 1d, to: end }
      - { kind: set, changes: [{ do: join list, list: Newsletter }] }
      - { kind: say, text: 'Thank you. You are on the list with {{ person.email | default: "your address" }}.' }
      - { kind: end }
  - id: no
    name: Not now
    steps:
      - { kind: say, text: 'All right. Write NEWS whenever you like.' }
      - { kind: end }
`,
};
