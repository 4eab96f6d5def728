import type { Start } from './start';

export const keyword: Start = {
  name: 'Answer a keyword',
  words: 'Whoever writes a word hears the prices, the address or a person.',
  file: `format: dart-loop/1
name: Information
cues:
  - { kind: keyword, words: [INFO], match: first word }
scenes:
  - id: welcome
    name: Welcome
    steps:
      - kind: say
        text: 'Hello {{ person.first_name | default: "there" }}, this is {{ client.name }}. What would you like to know?'
        choices:
          - { label: Prices, to: prices }
          - { label: Where you are, to: where }
          - { label: Talk to a person, to: person }
        retry: { times: 1, text: Please pick one of these. }
        otherwise: person
        noReply: { after: 1d, to: end }
  - id: prices
    name: Prices
    steps:
      - { kind: say, text: 'Write here what things cost, and where the whole list is.' }
      - { kind: go, to: more }
  - id: where
    name: Where we are
    steps:
      - { kind: say, text: 'Write here where you are, and when somebody is there.' }
      - { kind: go, to: more }
  - id: more
    name: Anything else
    steps:
      - kind: say
        text: Is there anything else?
        choices:
          - { label: That is all, to: bye }
          - { label: Talk to a person, to: person }
        retry: { times: 1, text: 'Is that all, or would you like to talk to a person?' }
        otherwise: person
        noReply: { after: 1d, to: end }
  - id: bye
    name: Goodbye
    steps:
      - { kind: say, text: Thank you for writing. }
      - { kind: end }
  - id: person
    name: A person
    steps:
      - { kind: hand over, text: One of us writes to you here., giveUp: { after: 1d, to: end } }
      - { kind: end }
`,
};
