import type { Start } from './start';

export const comments: Start = {
  name: 'Answer comments in private',
  words: 'Whoever comments a word under a post gets a message with a link.',
  needs: 'comments',
  file: `format: dart-loop/1
name: Comments
cues:
  - kind: comment
    posts: from now on
    with: [LINK]
    publicReplies: [Look into your messages., It is on its way to you., We have written to you.]
scenes:
  - id: offer
    name: The link
    steps:
      - kind: say
        text: Thank you for your comment. Shall I send you the link?
        choices:
          - { label: Yes please, to: link }
          - { label: No thanks, to: end }
        retry: { times: 1, text: 'Shall I send it, yes or no?' }
        otherwise: end
        noReply: { after: 12h, to: end }
  - id: link
    name: Sent
    steps:
      - kind: say
        text: Here it is.
        link: { label: See it, address: 'https://example.org' }
      - { kind: end }
`,
};
