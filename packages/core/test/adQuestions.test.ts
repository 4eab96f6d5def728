import { adContradictions, adQuestions, findingsOf, type Template } from '../src';
import { adQuestionsSheet } from '../src/channels/adQuestions';
import { loopOf } from './support';

const AD = 'cues: [{ kind: ad click, ads: ["12033"], required: [mail] }]';
const finder = (more = '', cues = AD) =>
  loopOf(`
format: dart-loop/1
name: Finder
${cues}
scenes:
  - id: light
    name: Light
    steps:
      - { kind: say, text: 'Hello{% if person.first_name %} {{ person.first_name }}{% endif %}, {{ client.name }} finds you a plant.' }
      - id: sun
        kind: say
        text: How much light is there?
        choices: [{ label: Sun, to: mail }, { label: Shade, to: mail }${more}]
        noReply: { after: 1d, to: end }
  - id: mail
    name: Mail
    steps:
      - { id: mail, kind: ask, text: Where do we send it?, reply: email, field: email, skip: { label: Rather not }, noReply: { after: 1d, to: end } }
      - { kind: say, text: It is on its way. }
  - id: quiet
    name: Quiet
    steps: [{ kind: end }]
`);
const BRIEF = { privacy_link: 'https://bramblerow.example/privacy' };

const BRAMBLE = { name: 'Bramble Row', brief: BRIEF };

test('the questions that follow each other are what the ad asks', () => {
  expect(adQuestions(finder(), BRAMBLE)).toEqual({
    format: 'dart-loop/ad-questions/1',
    loop: 'Finder',
    ads: ['12033'],
    opening: 'Hello, Bramble Row finds you a plant.',
    questions: [
      {
        step: 'sun',
        question: 'How much light is there?',
        kind: 'choice',
        answers: ['Sun', 'Shade'],
        required: true,
      },
      { step: 'mail', question: 'Where do we send it?', kind: 'email', answers: [], required: false },
    ],
    closing: 'It is on its way.',
    privacyLink: 'https://bramblerow.example/privacy',
    endsBecause: null,
  });
  expect(
    adQuestions(finder('', 'cues: [{ kind: keyword, words: [x1], match: exactly }]'), BRAMBLE),
  ).toBeNull();
});

test('they end where the answers part, and say so', () => {
  expect(adQuestions(finder(', { label: Unsure, to: quiet }'), BRAMBLE)).toMatchObject({
    questions: [{ step: 'sun' }],
    endsBecause: 'the answers lead to different scenes, and an ad cannot ask by what was answered',
  });
});

test('what contradicts itself is found, each at its step', () => {
  expect(adContradictions(finder(), {}).map(({ code, stepId }) => [code, stepId])).toEqual([
    ['required and skippable', 'mail'],
    ['no privacy link', null],
  ]);
  expect(adContradictions(finder(), null).map(({ code }) => code)).toEqual(['required and skippable']);
  const odd = adContradictions(finder(', { label: sun, to: quiet }, { label: Never mind, to: end }'), BRIEF);
  expect(odd.map(({ reason }) => reason)).toEqual([
    'Question 1 of the ad (“How much light is there?”): the answer “sun” leads to the end without a word.',
    'Question 1 of the ad (“How much light is there?”): the answer “Never mind” leads to the end without a word.',
    'Question 1 of the ad (“How much light is there?”) has the answer “sun” twice.',
  ]);
});

test('the sheet has a row for everything, and is text and nothing else', () => {
  const html = adQuestionsSheet({ ...adQuestions(finder(), BRAMBLE)!, opening: 'Fish & <Chips>' });
  expect(html.match(/<tr>/g)).toHaveLength(5);
  expect(html).toContain('Fish &#38; &#60;Chips&#62;');
  expect(html).not.toMatch(/<script|src=|href=/);
});

describe('what the channels will not show or send as it stands', () => {
  const loop = (step: string, cue = '{ kind: keyword, words: [x1], match: exactly }') =>
    loopOf(
      `{ format: dart-loop/1, name: L, cues: [${cue}], scenes: [{ id: one, name: One, steps: [${step}, { kind: say, text: y }] }] }`,
    );
  const reasons = (...args: Parameters<typeof findingsOf>) =>
    findingsOf(...args)
      .filter(({ code }) => ['label cut', 'template', 'held after a comment'].includes(code))
      .map(({ reason }) => reason);
  const say = (more: string) =>
    `{ kind: say, text: x, choices: [{ label: Saturday at 21:00 with the director, to: next }], ${more} noReply: { after: 1d, to: end } }`;

  test('labels that are cut, by channel', () => {
    const lines = (['messenger', 'telegram', 'sms'] as const).map((channel) => ({ key: channel, channel }));
    expect(reasons(loop(say('')), { lines })).toEqual([
      'The label “Saturday at 21:00 with the director” in scene 1 (One) is cut to “Saturday at 21:00…” on Messenger; the whole of it stands in the text.',
    ]);
    expect(reasons(loop(say('')))).toEqual([]);
  });
  test('templates that are not there, not approved, or have too few buttons', () => {
    const template: Template = {
      name: 'seats',
      language: 'en',
      status: 'approved',
      category: 'utility',
      body: 'x',
      parameters: 0,
      buttons: [],
    };
    const lines = (templates: Template[]) => [{ key: 'whatsapp', channel: 'whatsapp' as const, templates }];
    const uses = loop(
      say('whenShut: { do: template, name: seats },').replace('Saturday at 21:00 with the director', 'Late'),
    );
    expect(reasons(uses, { lines: lines([]) })).toEqual([
      'In scene 1 (One): the line has no template “seats”.',
    ]);
    expect(reasons(uses, { lines: lines([{ ...template, status: 'paused' }]) })[0]).toMatch(/is paused/);
    expect(reasons(uses, { lines: lines([template]) })).toEqual([
      'In scene 1 (One): the template “seats” has 0 buttons for 1 choices.',
    ]);
    expect(reasons(uses, { lines: lines([{ ...template, buttons: ['Late'] }]) })).toEqual([]);
  });
  test('what comes after the one message that a comment is answered with', () => {
    const comment = '{ kind: comment, posts: any }';
    expect(reasons(loop('{ kind: say, text: x }', comment))[0]).toMatch(
      /only the first message of scene 1 \(One\) goes out/,
    );
    expect(reasons(loop(say(''), comment))).toEqual([]);
  });
});
