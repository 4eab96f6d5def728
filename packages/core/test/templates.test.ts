import { sendings } from '../src/consent/permission';
import { usableTemplate } from '../src/channels/templates';
import { CHANNELS, type Said, type Template } from '../src';

const template = (more: Partial<Template> = {}): Template => ({
  name: 'still_looking',
  language: 'en_GB',
  status: 'approved',
  category: 'marketing',
  body: 'Hello {{1}}, two questions are left. Go on?',
  parameters: 1,
  buttons: ['Go on', 'Stop here'],
  ...more,
});
const call = { name: 'still_looking', parameters: ['Mira'] };

test('a template is chosen by the person’s language, and only where it is approved', () => {
  const all = [template({ language: 'fr' }), template(), template({ language: 'es', status: 'paused' })];
  const language = (wanted: string) => (usableTemplate(all, call, wanted) as Template).language;
  expect([language('fr'), language('en'), language('es')]).toEqual(['fr', 'en_GB', 'en_GB']);
});

test.each([
  ['none of that name', [], call, /has no template “still_looking”/],
  ['not decided on', [template({ status: 'pending' })], call, /is pending, and only an approved one may go/],
  [
    'another number of parameters',
    [template({ parameters: 2 })],
    call,
    /takes 2 parameters, and the step gives 1/,
  ],
  ['an empty parameter', [template()], { ...call, parameters: [' '] }, /is empty for this person/],
] as const)('%s is a sentence', (_what, all, wanted, reason) => {
  expect(usableTemplate([...all], { ...wanted, parameters: [...wanted.parameters] }, 'en')).toMatch(reason);
});

test('what stands above its text has to be given, and goes with it', () => {
  const shown = template({ header: 'image' });
  expect(usableTemplate([shown], call, 'en')).toBe(
    'the template “still_looking” shows a picture above its text, and the step gives none',
  );
  expect(usableTemplate([shown], { ...call, file: ' ' }, 'en')).toMatch(/gives none/);
  const file = 'https://loop.example.org/files/x.jpg';
  expect(usableTemplate([shown], { ...call, file }, 'en')).toBe(shown);
  const said: Said = { text: 'Go on?', choices: [], whenShut: { do: 'template', ...call, file } };
  const sent = (of: Template) =>
    sendings(CHANNELS.whatsapp, said, { may: 'go', until: null, via: { kind: 'template', template: of } })[0]!
      .body.template;
  expect(sent(shown)).toMatchObject({ header: { what: 'image', address: file } });
  // Where the approved one has none, the platform would refuse it.
  expect(sent(template())).not.toHaveProperty('header');
});

test('its buttons bring back the choices of the step, in their order', () => {
  const said: Said = {
    text: 'Go on?',
    choices: [
      { label: 'Go on with it', ref: 'a' },
      { label: 'Stop here', ref: 'b' },
      { label: 'Call me', ref: 'c' },
    ],
    whenShut: { do: 'template', ...call },
  };
  const via = { kind: 'template' as const, template: template() };
  expect(sendings(CHANNELS.whatsapp, said, { may: 'go', until: null, via }).map(({ body }) => body)).toEqual([
    {
      channel: 'whatsapp',
      text: 'Hello Mira, two questions are left. Go on?',
      taps: [
        { label: 'Go on', ref: 'a' },
        { label: 'Stop here', ref: 'b' },
      ],
      as: 'buttons',
      template: { name: 'still_looking', language: 'en_GB', parameters: ['Mira'] },
    },
  ]);
});
