import { openWarnings, problemsOf, findingsOf } from '../src';
import { CheckWorld } from '../src/loops/check/check';
import { pathsOf } from '../src/loops/check/paths';
import { FIRST_LOOP } from '../src/loops/file/firstLoop';
import { loopOf } from './support';

test('the loop that explains itself has nothing wrong with it, and shows each thing it speaks of', () => {
  const loop = loopOf(FIRST_LOOP);
  const known = { lines: [{ key: 'telegram', channel: 'telegram' as const }] };
  expect(problemsOf(loop, known)).toEqual([]);
  expect(openWarnings(findingsOf(loop, known)).map(({ code }) => code)).toEqual([]);
  const kinds = new Set(loop.scenes.flatMap((scene) => scene.steps.map(({ kind }) => kind)));
  expect([...kinds]).toEqual(['say', 'ask', 'go', 'split', 'end']);
  expect(pathsOf(new CheckWorld(loop, known)).paths.length).toBeGreaterThan(5);
});
