import { z } from 'zod';
import { Cue } from '../../engine/cues';
import { Step, exitsOf } from '../../engine/steps';
import { slug } from '../../language/slug';
import { LineKey, ListName, LocalId, type Target } from './basics';
import { Take } from '../takes/take';

export const LOOP_FORMAT = 'dart-loop/1';

export const Scene = z
  .object({
    id: LocalId.refine(
      (id) => id !== 'next' && id !== 'end',
      '"next" and "end" are targets and cannot name a scene',
    ),
    name: z.string().trim().min(1, 'a scene needs a name').max(80),
    steps: z.array(Step).max(100),
  })
  .strict();
export type Scene = z.infer<typeof Scene>;

/** Steps of one loop in all its scenes. */
export const MOST_STEPS = 3_000;

/**
 * One automated message sequence. The first scene is where every cue leads. `lines` are the keys of the
 * client's lines it speaks on; none means every line of the client.
 */
export const Loop = z
  .object({
    format: z.literal(LOOP_FORMAT),
    name: z.string().trim().min(1, 'a loop needs a name').max(80),
    lines: z.array(LineKey).max(50).default([]),
    /** The list that it writes to: what nobody asked for goes only to those who stand on it. */
    list: ListName.optional(),
    cues: z.array(Cue).max(50),
    scenes: z.array(Scene).max(300),
    /** Conversations that were kept as tests; they stay with the draft. */
    takes: z.array(Take).max(100).optional(),
    /** Findings that somebody has accepted, with the reason. */
    accepted: z
      .array(
        z
          .object({
            finding: z.string().min(1).max(400),
            reason: z.string().trim().min(1, 'say why it is accepted').max(400),
          })
          .strict(),
      )
      .max(500)
      .optional(),
  })
  .strict()
  .superRefine(({ scenes }, context) => {
    const steps = scenes.reduce((sum, scene) => sum + scene.steps.length, 0);
    if (steps > MOST_STEPS)
      context.addIssue({
        code: 'custom',
        path: ['scenes'],
        message: `the loop has ${steps.toLocaleString('en-GB')} steps, and at most ${MOST_STEPS.toLocaleString('en-GB')} are taken; part it into loops that go to each other`,
      });
  });
export type Loop = z.infer<typeof Loop>;

/** One published, immutable version of a loop, as the engine sees it. */
export interface LoopVersion {
  loopId: string;
  version: number;
  loop: Loop;
  /** In ms. */
  publishedAt?: number;
}

export interface StepPlace {
  scene: Scene;
  sceneIndex: number;
  step: Step;
  stepIndex: number;
}

/** Where a step stands, or null when the loop has no such step. */
export function findStep(loop: Loop, stepId: string): StepPlace | null {
  for (const [sceneIndex, scene] of loop.scenes.entries()) {
    const stepIndex = scene.steps.findIndex((step) => step.id === stepId);
    const step = scene.steps[stepIndex];
    if (step) return { scene, sceneIndex, step, stepIndex };
  }
  return null;
}

export function findScene(loop: Loop, sceneId: string): { scene: Scene; index: number } | null {
  const index = loop.scenes.findIndex((scene) => scene.id === sceneId);
  const scene = loop.scenes[index];
  return scene ? { scene, index } : null;
}

/** How a target reads in the script: "3 Pick a time", "the end", "the next step". */
export function targetWords(
  { scenes }: { scenes: readonly Pick<Scene, 'id' | 'name'>[] },
  target: Target,
): string {
  if (target === 'next') return 'the next step';
  if (target === 'end') return 'the end';
  const index = scenes.findIndex((scene) => scene.id === target);
  return index < 0 ? `a scene that is missing (${target})` : `${index + 1} ${scenes[index]!.name}`;
}

/** From which scenes people come into each scene; the first is entered "from every cue". */
export function scenesBefore(loop: Loop): Map<string, number[]> {
  const before = new Map<string, number[]>(loop.scenes.map((scene) => [scene.id, []]));
  const add = (to: string, from: number) => {
    const list = before.get(to);
    if (list && !list.includes(from)) list.push(from);
  };
  for (const [index, scene] of loop.scenes.entries())
    for (const step of scene.steps) for (const exit of exitsOf(step)) add(exit.to, index + 1);
  return before;
}

/** An id that the loop does not use yet: the words of `wish` in small letters, numbered where taken. */
export const freshId = (wish: string, taken: Iterable<string>): string => freshIds(taken)(wish);

/** The same for many: each id that it gives is taken from then on. */
export function freshIds(taken: Iterable<string>): (wish: string) => string {
  const used = new Set([...taken, 'next', 'end']);
  const nextOf = new Map<string, number>();
  return (wish) => {
    const base = slug(wish, '-').slice(0, 12).replace(/-+$/, '') || 'x';
    let id = base;
    for (let n = nextOf.get(base) ?? 2; used.has(id); n++) {
      id = `${base}-${n}`;
      nextOf.set(base, n + 1);
    }
    used.add(id);
    return id;
  };
}
