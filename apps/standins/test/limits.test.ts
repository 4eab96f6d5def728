import { whyRefused, type GraphKind } from '../src/graph/limits';

/** A message at the limit, which is taken, and the same one past it, with the reason. */
const LIMITS: [what: string, kind: GraphKind, taken: object, past: object, reason: RegExp][] = [
  ['text', 'messenger', message('x'.repeat(2_000)), message('x'.repeat(2_001)), /2,000 characters/],
  ['text in bytes', 'instagram', message('é'.repeat(500)), message('é'.repeat(501)), /1,000 bytes/],
  ['quick replies', 'instagram', quick(13), quick(14), /13 quick replies/],
  ['the title of one', 'messenger', quick(1, 20), quick(1, 21), /1 to 20 characters/],
  ['buttons of a template', 'messenger', template(3), template(4), /1 to 3 buttons/],
  ['text', 'whatsapp', whatsappText(4_096), whatsappText(4_097), /4,096/],
  ['reply buttons', 'whatsapp', replyButtons(3), replyButtons(4), /1 to 3 reply buttons/],
  ['the title of one', 'whatsapp', replyButtons(1, 20), replyButtons(1, 21), /1 to 20 characters/],
  ['rows of a list', 'whatsapp', rows(10), rows(11), /1 to 10 rows/],
  ['the title of a row', 'whatsapp', rows(1, 24), rows(1, 25), /1 to 24 characters/],
];

test.each(LIMITS)(
  '%s on %s: at the limit it is taken, past it refused with its reason',
  (...[, kind, taken, past, reason]) => {
    expect(whyRefused(kind, taken as never)).toBeNull();
    expect(whyRefused(kind, past as never)).toMatch(reason);
  },
);

test('what a platform does not know at all is refused', () => {
  expect(whyRefused('instagram', template(1) as never)).toMatch(/templates with buttons/);
  expect(whyRefused('whatsapp', { messaging_product: 'whatsapp', type: 'poll' })).toMatch(/not supported/);
  expect(whyRefused('whatsapp', { type: 'text', text: { body: 'Hello' } })).toMatch(/messaging_product/);
  expect(whyRefused('messenger', message(' ') as never)).toMatch(/empty/);
});

test('two choices of the same name, or with the same id, are refused', () => {
  const twice = (title: string, id: string) => ({
    ...replyButtons(1),
    interactive: {
      type: 'button',
      body: { text: 'Which?' },
      action: { buttons: [{ reply: { title: 'A', id: 'a' } }, { reply: { title, id } }] },
    },
  });
  expect(whyRefused('whatsapp', twice('A', 'b'))).toMatch(/titles must differ/);
  expect(whyRefused('whatsapp', twice('B', 'a'))).toMatch(/ids must differ/);
  expect(whyRefused('whatsapp', twice('B', 'b'))).toBeNull();
});

function message(text: string): object {
  return { message: { text } };
}
function quick(count: number, length = 5): object {
  const replies = Array.from({ length: count }, (_, at) => ({
    content_type: 'text',
    title: 'x'.repeat(length),
    payload: `p${at}`,
  }));
  return { message: { text: 'Which?', quick_replies: replies } };
}
function template(count: number): object {
  const buttons = Array.from({ length: count }, (_, at) => ({
    type: 'postback',
    title: `B${at}`,
    payload: `p${at}`,
  }));
  return {
    message: {
      attachment: { type: 'template', payload: { template_type: 'button', text: 'Which?', buttons } },
    },
  };
}
function whatsappText(length: number): object {
  return { messaging_product: 'whatsapp', type: 'text', text: { body: 'x'.repeat(length) } };
}
function interactive(part: object): object {
  return {
    messaging_product: 'whatsapp',
    type: 'interactive',
    interactive: { body: { text: 'Which?' }, ...part },
  };
}
function replyButtons(count: number, length = 3): object {
  const buttons = Array.from({ length: count }, (_, at) => ({
    reply: { title: String(at).padEnd(length, 'x'), id: `b${at}` },
  }));
  return interactive({ type: 'button', action: { buttons } });
}
function rows(count: number, length = 3): object {
  const all = Array.from({ length: count }, (_, at) => ({
    title: String(at).padEnd(length, 'x'),
    id: `r${at}`,
  }));
  return interactive({ type: 'list', action: { button: 'Choose', sections: [{ title: 'All', rows: all }] } });
}
