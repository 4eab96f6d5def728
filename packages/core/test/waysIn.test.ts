import type { LineAddress } from '../src';
import { qrSvg, waysIn } from '../src/channels/waysIn';
import { loopOf } from './support';

const lines: LineAddress[] = [
  { key: 'telegram', name: '@saltmarsh_bot', channel: 'telegram', account: { username: 'saltmarsh_bot' } },
  { key: 'sms', name: '+44 7700 900144', channel: 'sms', account: { number: '+447700900144' } },
];
const loop = (cues: string) =>
  loopOf(`{ format: dart-loop/1, name: L, cues: ${cues}, scenes: [{ name: One, steps: [{ kind: say, text: x }] }] }`);

test('links carry the reference, keywords are prefilled, and cues that nobody can hand out give none', () => {
  const all = waysIn(
    loop(
      '[{ id: l, kind: link, ref: poster-1 }, { id: k, kind: keyword, words: [Ticket office, PERSON], match: exactly }, { kind: tag, tag: x, when: added }, { kind: keyword, words: ["a+"], match: pattern }]',
    ),
    lines,
  );
  expect(all).toEqual([
    { lineKey: 'telegram', cueId: 'l', words: 'Open t.me/saltmarsh_bot?start=poster-1', link: 'https://t.me/saltmarsh_bot?start=poster-1' },
    { lineKey: 'telegram', cueId: 'k', words: 'Write Ticket office to @saltmarsh_bot', link: 'https://t.me/saltmarsh_bot' },
    { lineKey: 'sms', cueId: 'k', words: 'Write Ticket office to +44 7700 900144', link: 'sms:+447700900144?body=Ticket%20office' },
  ]);
});

test('a cue of certain lines leads to those only', () => {
  expect(waysIn(loop('[{ kind: keyword, words: [x1], match: exactly, lines: [sms] }]'), lines).map((way) => way.lineKey)).toEqual(['sms']);
});

test('a QR code has its finders, its quiet zone, and a caption that is text and nothing else', () => {
  const svg = qrSvg('https://t.me/saltmarsh_bot?start=poster-1', 'Fish & <Chips>');
  expect(svg).toContain('Fish &#38; &#60;Chips&#62;');
  // The three finder patterns stand in their corners, four modules in.
  const [, size] = /viewBox="0 0 (\d+) /.exec(svg)!;
  for (const corner of ['M4 4h', `M${Number(size) - 5} 4h`, `M4 ${Number(size) - 5}h`]) expect(svg).toContain(corner);
  expect(svg).not.toMatch(/M[0-3] /);
  expect(svg.match(/<text/g)).toHaveLength(1);
});
