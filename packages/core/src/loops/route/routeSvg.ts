import dagre from '@dagrejs/dagre';
import { inHtml } from '../../channels/html';
import type { Loop } from '../model/loop';
import { exitsOf } from '../../engine/steps';

/**
 * A stop of the line diagram: a scene, or (sceneId null) a terminal. Lengths in units of the drawing, from
 * its upper left; x and y are its middle.
 */
export interface Stop {
  sceneId: string | null;
  words: string;
  people: number | null;
  x: number;
  y: number;
  width: number;
  height: number;
}
/** A line between two stops. */
export interface RouteLine {
  words: string;
  /** How many people took it; null where nobody could yet. */
  people: number | null;
  points: { x: number; y: number }[];
  /** From 1.5 to 9, by people. */
  thickness: number;
  /** It leads back to where the diagram comes from. */
  back: boolean;
}
export interface Route {
  stops: Stop[];
  lines: RouteLine[];
  width: number;
  height: number;
}

const END = '(end)';
const START = '(start)';
const LETTER = 7.4;

/**
 * Lays a loop out as a line diagram: scenes are stops, what leads from one to another is one line, thicker
 * where more people went. `reached`: people by step; `passed`: people by the step they came from and the one
 * they came to ("a>b"; "a>" for the end). Pure: the same loop gives the same drawing.
 */
export function layOut(
  loop: Loop,
  reached: Record<string, number> | null,
  passed: Record<string, number> | null,
): Route {
  const graph = new dagre.graphlib.Graph({ multigraph: true });
  graph.setGraph({ rankdir: 'TB', nodesep: 34, ranksep: 52, marginx: 16, marginy: 16 });
  graph.setDefaultEdgeLabel(() => ({}));
  const size = (words: string) => ({
    width: Math.max(90, Math.min(240, words.length * LETTER + 36)),
    height: 44,
  });
  const wordsOf = new Map(loop.scenes.map((scene, index) => [scene.id, `${index + 1} ${scene.name}`]));
  graph.setNode(START, { width: 20, height: 20 });
  for (const scene of loop.scenes) graph.setNode(scene.id, size(shorten(wordsOf.get(scene.id)!)));
  graph.setNode(END, { width: 70, height: 26 });

  const lines = new Map<string, { from: string; to: string; words: string[]; people: number | null }>();
  const lead = (from: string, to: string, words: string, people: number | null = null) => {
    const key = `${from}>${to}`;
    const line = lines.get(key) ?? { from, to, words: [], people: null };
    if (words && !line.words.includes(words)) line.words.push(words);
    if (people !== null) line.people = (line.people ?? 0) + people;
    lines.set(key, line);
  };
  if (loop.scenes[0])
    lead(START, loop.scenes[0].id, '', reached ? (reached[loop.scenes[0].steps[0]?.id ?? ''] ?? 0) : null);
  for (const scene of loop.scenes) {
    for (const step of scene.steps)
      for (const exit of exitsOf(step)) {
        const to = exit.to === 'end' ? END : exit.to === 'next' ? scene.id : exit.to;
        if (to === scene.id || (to !== END && !wordsOf.has(to))) continue;
        lead(scene.id, to, exit.kind === 'go' ? '' : exit.words);
      }
    const last = scene.steps.at(-1);
    if (last && endsHere(last)) lead(scene.id, END, '');
  }
  if (passed) {
    const sceneOf = new Map(
      loop.scenes.flatMap((scene) => scene.steps.map((step) => [step.id, scene.id] as const)),
    );
    for (const line of lines.values()) if (line.from !== START) line.people = 0;
    for (const [pair, people] of Object.entries(passed)) {
      const [from, to] = pair.split('>') as [string, string];
      const line = lines.get(`${sceneOf.get(from)}>${to === '' ? END : sceneOf.get(to)}`);
      if (line) line.people = (line.people ?? 0) + people;
    }
  }
  for (const [key, line] of lines) graph.setEdge(line.from, line.to, {}, key);
  dagre.layout(graph);

  const most = Math.max(1, ...[...lines.values()].map((line) => line.people ?? 0));
  const { width = 200, height = 100 } = graph.graph() as { width?: number; height?: number };
  const node = (id: string) =>
    graph.node(id) as unknown as { x: number; y: number; width: number; height: number };
  const used = new Set([...lines.values()].flatMap(({ from, to }) => [from, to]));
  return {
    stops: [
      ...loop.scenes.map((scene) => ({
        sceneId: scene.id,
        words: wordsOf.get(scene.id)!,
        people: reached ? (reached[scene.steps[0]?.id ?? ''] ?? 0) : null,
        ...node(scene.id),
      })),
      ...[START, END]
        .filter((id) => used.has(id))
        .map((id) => ({ sceneId: null, words: id === START ? '' : 'the end', people: null, ...node(id) })),
    ].map(({ sceneId, words, people, x, y, width: w, height: h }) => ({
      sceneId,
      words,
      people,
      x,
      y,
      width: w,
      height: h,
    })),
    lines: [...lines].map(([key, line]) => {
      const { points } = graph.edge({ v: line.from, w: line.to, name: key }) as {
        points: { x: number; y: number }[];
      };
      return {
        words: line.words.join(', '),
        people: line.people,
        points,
        thickness: line.people === null ? 2 : 1.5 + 7.5 * Math.sqrt(line.people / most),
        back: node(line.to).y < node(line.from).y,
      };
    }),
    width: Math.ceil(width),
    height: Math.ceil(height),
  };
}

/** Whether a run that comes to the end of the step's scene is over there. */
function endsHere(step: Loop['scenes'][number]['steps'][number]): boolean {
  if (step.kind === 'end') return true;
  if (step.kind === 'go' || step.kind === 'vary') return false;
  return !(step.kind === 'say' && step.choices?.length);
}

/** Colours of the drawing, as CSS colours. */
export interface RouteLook {
  paper: string;
  ink: string;
  quiet: string;
  line: string;
  stop: string;
}

/** The diagram as an SVG file that stands on its own. */
export function routeSvg(route: Route, look: RouteLook): string {
  const lines = route.lines.map(({ points, thickness, words, people, back }) => {
    const middle = points[Math.floor(points.length / 2)]!;
    const label = people === null ? '' : String(people);
    return [
      `<path d="${curve(points)}" fill="none" stroke="${look.line}" stroke-width="${thickness.toFixed(1)}" stroke-linecap="round"${back ? ' stroke-dasharray="5 7"' : ''} opacity="0.75"><title>${inHtml(words || 'leads on')}${people === null ? '' : `: ${people}`}</title></path>`,
      ...(label && people !== 0
        ? [
            `<text x="${middle.x.toFixed(1)}" y="${(middle.y + 4).toFixed(1)}" text-anchor="middle" font-size="12" fill="${look.ink}" stroke="${look.paper}" stroke-width="4" paint-order="stroke" font-family="monospace">${label}</text>`,
          ]
        : []),
    ].join('');
  });
  const stops = route.stops.map(({ sceneId, words, people, x, y, width, height }) => {
    if (sceneId === null && words === '') return `<circle cx="${x}" cy="${y}" r="8" fill="${look.stop}"/>`;
    if (sceneId === null)
      return `<rect x="${x - width / 2}" y="${y - height / 2}" width="${width}" height="${height}" rx="13" fill="${look.ink}"/><text x="${x}" y="${y + 4.5}" text-anchor="middle" font-size="13" fill="${look.paper}">${words}</text>`;
    return [
      `<rect x="${x - width / 2}" y="${y - height / 2}" width="${width}" height="${height}" rx="6" fill="${look.paper}" stroke="${look.ink}" stroke-width="1.5"/>`,
      `<circle cx="${x - width / 2}" cy="${y}" r="5" fill="${look.paper}" stroke="${look.stop}" stroke-width="3"/>`,
      `<text x="${x}" y="${people === null ? y + 5 : y - 1}" text-anchor="middle" font-size="14" fill="${look.ink}">${inHtml(shorten(words))}</text>`,
      people === null
        ? ''
        : `<text x="${x}" y="${y + 15}" text-anchor="middle" font-size="12" fill="${look.quiet}" font-family="monospace">${people}</text>`,
    ].join('');
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${route.width} ${route.height}" width="${route.width}" height="${route.height}" font-family="'Atkinson','Atkinson Hyperlegible',Verdana,sans-serif"><rect width="100%" height="100%" fill="${look.paper}"/>${lines.join('')}${stops.join('')}</svg>`;
}

const shorten = (words: string) => (words.length > 28 ? `${words.slice(0, 27)}…` : words);

/** A smooth way through points. */
function curve(points: { x: number; y: number }[]): string {
  const [first, ...rest] = points;
  let path = `M${first!.x.toFixed(1)} ${first!.y.toFixed(1)}`;
  for (const [at, point] of rest.entries()) {
    const next = rest[at + 1];
    if (!next) path += ` L${point.x.toFixed(1)} ${point.y.toFixed(1)}`;
    else
      path += ` Q${point.x.toFixed(1)} ${point.y.toFixed(1)} ${((point.x + next.x) / 2).toFixed(1)} ${((point.y + next.y) / 2).toFixed(1)}`;
  }
  return path;
}
