import type { Start } from './start';

export const appointment: Start = {
  name: 'Take a booking',
  words: 'Offers free times of a calendar and books the one they choose.',
  needs: 'calendar',
  file: `format: dart-loop/1
name: Booking
cues:
  - { kind: keyword, words: [BOOK], match: first word }
scenes:
  - id: time
    name: A time
    steps:
      - kind: book
        text: When would you like to come?
        calendar: Appointments
        day: visit_day
        time: visit_time
        full: full
        retry: { times: 1, text: Please pick one of these times. }
        otherwise: person
        noReply: { after: 1d, to: end }
      - { kind: say, text: 'You are booked on {{ person.visit_day | date: "long" }} at {{ person.visit_time }}.' }
      - { kind: end }
  - id: full
    name: Nothing free
    steps:
      - { kind: say, text: Nothing is free at the moment. }
      - { kind: go, to: person }
  - id: person
    name: A person
    steps:
      - { kind: hand over, text: One of us writes to you to find a time., giveUp: { after: 1d, to: end } }
      - { kind: end }
`,
};
