import { openWarnings, problemsOf, findingsOf } from '../src';
import { CheckWorld } from '../src/loops/check/check';
import { pathsOf } from '../src/loops/check/paths';
import { STARTS } from '../src/loops/starts';
import { explained } from '../src/loops/starts/explained';
import { loopOf } from './support';

/** A client that has what the starting points need. */
const KNOWN = {
  lines: [
    { key: 'page', channel: 'messenger' as const },
    { key: 'bot', channel: 'telegram' as const },
    { key: 'text', channel: 'sms' as const },
  ],
};

test.each(STARTS.map((start) => [start.name, start] as const))(
  '%s: nothing stands in the way, and it has ways through it',
  (_, { file, words, needs }) => {
    const loop = loopOf(file);
    const known = { ...KNOWN, lines: needs === 'comments' ? KNOWN.lines.slice(0, 1) : KNOWN.lines };
    expect(problemsOf(loop, known)).toEqual([]);
    expect(openWarnings(findingsOf(loop, known)).map(({ code, reason }) => [code, reason])).toEqual([]);
    expect(pathsOf(new CheckWorld(loop, known)).paths.length).toBeGreaterThan(1);
    expect(words).toMatch(/^[A-Z].*\.$/);
  },
);

test('the loop that explains itself shows each thing it speaks of', () => {
  const loop = loopOf(explained.file);
  const kinds = new Set(loop.scenes.flatMap((scene) => scene.steps.map(({ kind }) => kind)));
  expect([...kinds]).toEqual(['say', 'ask', 'go', 'split', 'end']);
});
