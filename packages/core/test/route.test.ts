import { layOut, routeSvg, type Route } from '../src/loops/route/routeSvg';
import { SAILINGS, loopOf } from './support';

const LOOK = { paper: '#fff', ink: '#111', quiet: '#777', line: '#0f6b66', stop: '#c8401f' };
const stop = (route: Route, sceneId: string) => route.stops.find((each) => each.sceneId === sceneId)!;
const between = (route: Route, words: string) => route.lines.find((line) => line.words.includes(words))!;

describe('the route of a loop', () => {
  test('has a stop for every scene, its beginning and its end, none upon another, all within the drawing', () => {
    const route = layOut(SAILINGS, null, null);
    expect(route.stops.filter(({ sceneId }) => sceneId !== null).map(({ words }) => words)).toEqual(
      SAILINGS.scenes.map(({ name }, index) => `${index + 1} ${name}`),
    );
    expect(route.stops.filter(({ sceneId }) => sceneId === null)).toHaveLength(2);
    for (const one of route.stops) {
      expect(one.x - one.width / 2).toBeGreaterThanOrEqual(0);
      expect(one.x + one.width / 2).toBeLessThanOrEqual(route.width);
      expect(one.y + one.height / 2).toBeLessThanOrEqual(route.height);
      for (const other of route.stops)
        if (one !== other)
          expect(
            Math.abs(one.x - other.x) >= (one.width + other.width) / 2 ||
              Math.abs(one.y - other.y) >= (one.height + other.height) / 2,
          ).toBe(true);
    }
  });

  test('is drawn from top to bottom, and the same loop gives the same drawing', () => {
    const route = layOut(SAILINGS, null, null);
    expect(stop(route, 'welcome').y).toBeLessThan(stop(route, 'email').y);
    expect(routeSvg(layOut(SAILINGS, null, null), LOOK)).toBe(routeSvg(route, LOOK));
  });

  test('a line is thicker where more people went, and says how many; nobody is no thinner than one can see', () => {
    const quiet = layOut(SAILINGS, {}, {});
    const busy = layOut(SAILINGS, { hello: 40, mail: 39 }, { 'hello>mail': 39 });
    const many = between(busy, 'Yes, keep me posted');
    expect(many.people).toBe(39);
    expect(many.thickness).toBeGreaterThan(between(busy, 'Not today').thickness);
    for (const line of [...quiet.lines, ...busy.lines]) {
      expect(line.thickness).toBeGreaterThanOrEqual(1.5);
      expect(line.thickness).toBeLessThanOrEqual(9);
    }
  });

  test('a way back is drawn as one, and a scene that leads to itself has none', () => {
    const loop = loopOf(`
format: dart-loop/1
name: Round
cues: [{ kind: keyword, words: [ROUND], match: exactly }]
scenes:
  - id: one
    name: One
    steps: [{ kind: say, text: Again?, choices: [{ label: Again, to: one }, { label: On, to: two }] }]
  - id: two
    name: Two
    steps: [{ kind: say, text: Back?, choices: [{ label: Back, to: one }, { label: Done, to: end }] }]
`);
    const route = layOut(loop, null, null);
    expect(route.lines.filter(({ back }) => back).map(({ words }) => words)).toEqual(['Back']);
    expect(route.lines.some(({ words }) => words.includes('Again'))).toBe(false);
    expect(routeSvg(route, LOOK)).toContain('stroke-dasharray');
  });

  test('names of scenes cannot break out of the drawing', () => {
    const loop = structuredClone(SAILINGS);
    loop.scenes[0]!.name = '<script>"&';
    const svg = routeSvg(layOut(loop, null, null), LOOK);
    expect(svg).not.toContain('<script>');
    expect(svg).toContain('&#60;script&#62;');
  });
});
