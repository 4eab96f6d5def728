import type { LineAddress } from '../src';
import { qrSvg } from '../src/channels/qr';
import { waysIn, waysInSheet, buttonHtml, codeHtml } from '../src/channels/waysIn';
import { loopOf } from './support';

const lines: LineAddress[] = [
  { key: 'telegram', name: '@saltmarsh_bot', channel: 'telegram', account: { username: 'saltmarsh_bot' } },
  { key: 'sms', name: '+44 7700 900144', channel: 'sms', account: { number: '+447700900144' } },
  {
    key: 'whatsapp',
    name: '+44 7700 900146',
    channel: 'whatsapp',
    account: { id: '1', number: '+447700900146' },
  },
  { key: 'messenger', name: 'Saltmarsh', channel: 'messenger', account: { id: '2', username: 'saltmarsh' } },
  {
    key: 'instagram',
    name: '@saltmarsh.ferries',
    channel: 'instagram',
    account: { id: '3', username: 'saltmarsh.ferries' },
  },
];
const loop = (cues: string) =>
  loopOf(
    `{ format: dart-loop/1, name: L, cues: ${cues}, scenes: [{ name: One, steps: [{ kind: say, text: x }] }] }`,
  );

test('every line has its link: with the reference, or with words ready to send, as its channel carries them', () => {
  const all = waysIn(
    loop(
      '[{ id: l, kind: link, ref: poster-1 }, { id: k, kind: keyword, words: [Ticket office, PERSON], match: exactly }]',
    ),
    lines,
  );
  expect(all.map(({ cueId, lineKey, link }) => [cueId, lineKey, link])).toEqual([
    ['l', 'telegram', 'https://t.me/saltmarsh_bot?start=poster-1'],
    ['l', 'sms', 'sms:+447700900144?body=poster-1'],
    ['l', 'whatsapp', 'https://wa.me/447700900146?text=poster-1'],
    ['l', 'messenger', 'https://m.me/saltmarsh?ref=poster-1'],
    ['l', 'instagram', 'https://ig.me/m/saltmarsh.ferries?ref=poster-1'],
    ['k', 'telegram', 'https://t.me/saltmarsh_bot'],
    ['k', 'sms', 'sms:+447700900144?body=Ticket%20office'],
    ['k', 'whatsapp', 'https://wa.me/447700900146?text=Ticket%20office'],
    ['k', 'messenger', 'https://m.me/saltmarsh'],
    ['k', 'instagram', 'https://ig.me/m/saltmarsh.ferries'],
  ]);
  expect(all[0]!.words).toBe('Open t.me/saltmarsh_bot?start=poster-1');
  expect(all[6]!.words).toBe('Write Ticket office to +44 7700 900144');
});

test('comments, ads and menus are pointed to where the channel has them, and cues that nobody can be sent to give none', () => {
  const all = waysIn(
    loop(
      '[{ kind: comment, posts: any, with: [comet] }, { kind: ad click, ads: ["12033"] }, { kind: menu tap, item: hours }, { kind: tag, tag: x, when: added }, { kind: keyword, words: ["a+"], match: pattern }]',
    ),
    lines,
  );
  expect(all.map(({ words }) => words)).toEqual([
    'Comment COMET under any post of Saltmarsh on Messenger',
    'Comment COMET under any post of @saltmarsh.ferries on Instagram',
    'Click the ad 12033 on WhatsApp',
    'Click the ad 12033 on Messenger',
    'Click the ad 12033 on Instagram',
    'Send /hours to @saltmarsh_bot',
    'Tap “hours” in the menu of Saltmarsh on Messenger',
    'Tap “hours” in the menu of @saltmarsh.ferries on Instagram',
  ]);
  expect(all.every(({ link }) => link === null)).toBe(true);
});

test('all of them stand on one page that needs nothing else and runs nothing', () => {
  const ways = waysIn(loop('[{ id: l, kind: link, ref: poster-1 }]'), lines).map((way) => ({
    ...way,
    channel: 'telegram' as const,
  }));
  const html = waysInSheet('Fish & <Chips>', 'Menu', ways);
  expect(html.match(/<svg/g)).toHaveLength(5);
  expect(html).toContain('Fish &#38; &#60;Chips&#62;');
  expect(html).not.toMatch(/<script|src=|href=/);
});

test('a cue of certain lines leads to those only', () => {
  expect(
    waysIn(loop('[{ kind: keyword, words: [x1], match: exactly, lines: [sms] }]'), lines).map(
      (way) => way.lineKey,
    ),
  ).toEqual(['sms']);
});

test('a QR code has its finders, its quiet zone, and a caption that is text and nothing else', () => {
  const svg = qrSvg('https://t.me/saltmarsh_bot?start=poster-1', 'Fish & <Chips>');
  expect(svg).toContain('Fish &#38; &#60;Chips&#62;');
  // The three finder patterns stand in their corners, four modules in.
  const [, size] = /viewBox="0 0 (\d+) /.exec(svg)!;
  for (const corner of ['M4 4h', `M${Number(size) - 5} 4h`, `M4 ${Number(size) - 5}h`])
    expect(svg).toContain(corner);
  expect(svg).not.toMatch(/M[0-3] /);
  expect(svg.match(/<text/g)).toHaveLength(1);
});

test('what goes onto a website is plain HTML: nothing runs, and nothing in it is taken for more than text', () => {
  const link = 'https://t.me/bot?start=a&b="c"';
  const button = buttonHtml(link, 'Write to B&B <"Harwick">');
  expect(button).toContain('href="https://t.me/bot?start=a&#38;b=&#34;c&#34;"');
  expect(button).toContain('>Write to B&#38;B &#60;&#34;Harwick&#34;&#62;</a>');
  const code = codeHtml(link, 'https://loop.example.org/w/1/telegram/k.svg', 'Write A');
  expect(code).toMatch(/^<a href="[^"]+"><img src="[^"]+" alt="Write A" width="160" height="176"><\/a>$/);
  expect(button + code).not.toMatch(/script|onclick|onload/i);
});
