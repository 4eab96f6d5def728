import type { Start } from './start';

/** How loops are written, by being one: to rehearse, to change, and to throw away. */
export const explained: Start = {
  name: 'An example that explains itself',
  words: 'Rehearse it, and it tells how a loop is written.',
  file: `format: dart-loop/1
name: The first one
lines: []
cues:
  - { kind: keyword, words: [LEARN], match: exactly }
scenes:
  - id: welcome
    name: Welcome
    steps:
      - kind: say
        text: 'This is a loop, and you are in its rehearsal. Every box of the script is a scene, every line in it a step. What you read now is the first step of the first scene. Shall we go on?'
        choices:
          - { label: Go on, to: choices }
          - { label: Not now, to: bye }
        noReply: { after: 3h, to: nudge }
  - id: choices
    name: Choices lead on
    steps:
      - kind: say
        text: 'You have tapped a choice. It stands under its step in the script, with an arrow to where it leads. Tap the arrow to lead elsewhere.'
      - kind: ask
        text: 'This is a question. What is your first name? Whatever you write is kept in a field.'
        reply: text
        field: nickname
        retry: { times: 1, text: 'Just a name, please.' }
        noReply: { after: 20h, to: nudge }
      - { kind: say, text: 'Nice to meet you, {{ person.nickname | default: "you" }}. That was a merge field, put in from what you have just written.' }
      - { kind: go, to: writing }
  - id: writing
    name: Writing
    steps:
      - kind: say
        text: 'To add a step, press "a" or tap "+ add a step", and write: a text, or "ask email", "wait 2h", "- Saturday -> Pick a time". Enter adds it. What is risky is marked in the margin, with what mends it.'
        choices:
          - { label: Show me a split, to: split }
          - { label: I have seen enough, to: bye }
        noReply: { after: 3h, to: nudge }
  - id: split
    name: By what is known
    steps:
      - kind: split
        arms:
          - { when: { channels: [sms] }, to: onsms }
        otherwise: elsewhere
  - id: onsms
    name: On SMS
    steps:
      - { kind: say, text: 'You rehearse on SMS, so the split led here. Choose another channel above and see.' }
      - { kind: go, to: bye }
  - id: elsewhere
    name: On the others
    steps:
      - { kind: say, text: 'You do not rehearse on SMS, so the split led here. Choose Sm above and see.' }
      - { kind: go, to: bye }
  - id: nudge
    name: Nudge
    steps:
      - { kind: say, text: 'Nobody replied for a while, so the exit "no reply" led here. In a rehearsal the clock is wound with Skip to.' }
      - kind: end
  - id: bye
    name: The end
    steps:
      - { kind: say, text: 'That is all. Keep this conversation as a take, change a text, and see under Checks what the take says. Then write your own.' }
      - kind: end
`,
};
