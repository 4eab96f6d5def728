import { adContradictions, type AdContradiction } from '../channels/adQuestions';
import { isSkipWord, readConsentWord } from '../consent/words';
import { linesOf } from '../match/cueIndex';
import { cueWords } from '../match/cues';
import { findScene, type Loop } from '../model/loop';
import type { FieldType, FieldTypes } from '../model/person';
import { kindOf, exitsOf, waitingOf, type Step } from '../run/steps';
import { fold } from '../words/fold';
import { parseMerge } from '../words/merge';
import { readReply } from '../words/replies';
import { channelFindings, type KnownLine } from './channelFindings';
import { circleWithoutWaiting, reachedScenes, raisedBy, startsOn } from './ways';

export type FindingCode =
  | 'no scene'
  | 'no cue'
  | 'empty scene'
  | 'double id'
  | 'missing target'
  | 'merge field'
  | 'field type'
  | 'value'
  | 'unknown line'
  | 'missing loop'
  | 'circle'
  | 'loops in a circle'
  | 'scene never reached'
  | 'step never reached'
  | 'no way out'
  | 'keyword never heard'
  | 'keyword taken'
  | 'lettered keyword'
  | 'unknown answer'
  | 'alert to nobody'
  | 'skip word taken'
  | 'label cut'
  | 'template'
  | 'held after a comment'
  | AdContradiction['code'];

/** One thing that is wrong or risky. What `stops` stands in the way of publishing. Names the place, where there is one. */
export interface Finding {
  code: FindingCode;
  severity: 'stops' | 'warns';
  sceneId: string | null;
  stepId: string | null;
  cueId: string | null;
  /** One sentence that says what is wrong and what is expected. */
  reason: string;
}
export type Problem = Finding;

/** What surrounds a loop; what is left out is not known, as for a file on its own. */
export interface Surroundings {
  /** The client's fields with their types. */
  types?: FieldTypes;
  lines?: KnownLine[];
  /** The client's brief, where its privacy link stands. */
  brief?: Record<string, string>;
  /** The client's other loops. */
  others?: Loop[];
}

/** What stands in the way of publishing. */
export function problemsOf(loop: Loop, known: Surroundings = {}): Problem[] {
  return findingsOf(loop, known).filter((finding) => finding.severity === 'stops');
}

/** Everything that is wrong or risky in a loop, in the order of the loop. Pure; a file of 300 steps takes some milliseconds. */
export function findingsOf(loop: Loop, known: Surroundings = {}): Finding[] {
  const findings: Finding[] = [];
  const add = (
    severity: Finding['severity'],
    code: FindingCode,
    reason: string,
    place: { sceneId?: string; stepId?: string; cueId?: string } = {},
  ) => findings.push({ code, severity, sceneId: place.sceneId ?? null, stepId: place.stepId ?? null, cueId: place.cueId ?? null, reason });

  if (loop.cues.length === 0) add('stops', 'no cue', 'Nothing starts this loop yet: add a cue to it.');
  if (loop.scenes.length === 0) add('stops', 'no scene', 'There is no scene yet: add one with at least one step.');
  for (const key of known.lines ? [...loop.lines, ...loop.cues.flatMap((cue) => cue.lines ?? [])] : [])
    if (!known.lines!.some((line) => line.key === key)) add('stops', 'unknown line', `The client has no line with the key “${key}”.`);

  const ids = new Map<string, string>();
  const claim = (id: string, what: string, place: { sceneId?: string; stepId?: string; cueId?: string }) => {
    const other = ids.get(id);
    if (other)
      add('stops', 'double id', `The id “${id.replace(/^\w+:/, '')}” is used by ${other} and by ${what}; each needs its own.`, place);
    else ids.set(id, what);
  };
  for (const cue of loop.cues) {
    claim(`cue:${cue.id}`, 'a cue', { cueId: cue.id });
    if (cue.kind !== 'keyword' || cue.match === 'pattern') continue;
    for (const word of cue.words) {
      const folded = fold(word);
      const place = { cueId: cue.id };
      if (cue.match === 'exactly' && readConsentWord(word, 'sms', ['es', 'fr', 'de', 'pt', 'it']) !== null)
        add(
          'warns',
          'keyword never heard',
          `The keyword “${word}” is also an opt-out, opt-in or help word, which goes before every loop; choose another.`,
          place,
        );
      if (/^[a-z]$/.test(folded))
        add(
          'warns',
          'lettered keyword',
          `The keyword “${word}” is also the letter of an answer where choices have letters; choose a longer one.`,
          place,
        );
      for (const other of known.others ?? [])
        for (const theirs of other.cues)
          if (
            theirs.kind === 'keyword' &&
            theirs.match === cue.match &&
            theirs.words.some((each) => fold(each) === folded) &&
            shareLine(loop, cue, other, theirs)
          )
            add(
              'warns',
              'keyword taken',
              `The keyword “${word}” starts the loop “${other.name}” too, on the same lines and matched the same way; the one that stands first in the client’s order answers.`,
              place,
            );
    }
  }

  const fieldTypes = new Map<string, FieldType>(Object.entries(known.types ?? {}));
  const answers = new Set(
    loop.scenes.flatMap((scene) =>
      scene.steps.flatMap((step) => (step.kind === 'ask' ? [step.field] : step.kind === 'say' && step.choices ? [step.id] : [])),
    ),
  );
  for (const [index, scene] of loop.scenes.entries()) {
    const where = `scene ${index + 1} (${scene.name})`;
    claim(`scene:${scene.id}`, where, { sceneId: scene.id });
    if (scene.steps.length === 0)
      add('stops', 'empty scene', `Scene ${index + 1} (${scene.name}) has no steps; add one or remove the scene.`, { sceneId: scene.id });
    for (const [at, step] of scene.steps.entries()) {
      const place = { sceneId: scene.id, stepId: step.id };
      claim(`step:${step.id}`, `a step in ${where}`, place);
      const before = scene.steps[at - 1];
      if (before && !leadsOn(before))
        add(
          'warns',
          'step never reached',
          `The ${step.kind} in ${where} is never reached: the step before it always leads elsewhere.`,
          place,
        );
      const choiceIds =
        step.kind === 'say'
          ? (step.choices ?? []).map((choice) => choice.id)
          : step.kind === 'ask'
            ? (step.options ?? []).map((option) => option.id)
            : [];
      const twice = choiceIds.find((id, other) => choiceIds.indexOf(id) !== other);
      if (twice) add('stops', 'double id', `Two choices in ${where} have the id “${twice}”.`, place);
      for (const exit of exitsOf(step))
        if (exit.to !== 'next' && exit.to !== 'end' && !findScene(loop, exit.to))
          add('stops', 'missing target', `“${exit.words}” in ${where} leads to the scene “${exit.to}”, which is not there.`, place);
      if (step.kind === 'vary' && step.goal && 'scene' in step.goal && !findScene(loop, step.goal.scene))
        add('stops', 'missing target', `The goal of the vary in ${where} is the scene “${step.goal.scene}”, which is not there.`, place);
      if (step.kind === 'go' && step.loop !== undefined && known.others && fold(step.loop) !== fold(loop.name)) {
        const called = known.others.find((other) => fold(other.name) === fold(step.loop!));
        if (!called)
          add('stops', 'missing loop', `The go in ${where} leads to the loop “${step.loop}”, which the client does not have.`, place);
        else if (step.scene && !findScene(called, step.scene))
          add(
            'stops',
            'missing target',
            `The go in ${where} leads to the scene “${step.scene}” of “${step.loop}”, which is not there.`,
            place,
          );
      }
      for (const text of textsOf(step)) {
        const { parts, problems } = parseMerge(text);
        for (const problem of problems)
          add('stops', 'merge field', `In ${where}, at character ${problem.at + 1} of “${shorten(text)}”: ${problem.reason}.`, place);
        for (const part of parts) {
          const key = part.kind === 'merge' && part.path.startsWith('answers.') ? part.path.slice('answers.'.length) : null;
          if (key !== null && !answers.has(key))
            add(
              'warns',
              'unknown answer',
              `In ${where}: no question of this loop stores “${key}”, and no say with choices has that id, so {{ answers.${key} }} is always empty.`,
              place,
            );
        }
      }
      if (step.kind === 'ask') {
        const type = fieldTypes.get(step.field);
        if (type && type !== step.reply)
          add(
            'stops',
            'field type',
            `The question in ${where} reads a reply of type ${step.reply} into the field “${step.field}”, which is of type ${type}.`,
            place,
          );
        fieldTypes.set(step.field, type ?? step.reply);
        if (step.skip && (step.options ?? []).some((option) => isSkipWord(option.label)))
          add(
            'warns',
            'skip word taken',
            `An option of the question in ${where} is also a word for skipping it; it is read as the option when tapped, and as skipping when typed.`,
            place,
          );
      }
      if (step.kind === 'set')
        for (const change of step.changes) {
          const type = change.do === 'field' ? fieldTypes.get(change.field) : undefined;
          if (change.do !== 'field' || !type || /\{\{|\{%/.test(change.value)) continue;
          const reading = readReply(type, change.value, { country: 'GB', language: 'en', now: 0, zone: 'UTC', days: 'any' });
          if (!reading.ok)
            add(
              'stops',
              'value',
              `The set in ${where} gives “${change.field}” the value “${change.value}”, which is no ${type}: ${reading.reason}.`,
              place,
            );
        }
      if (step.kind === 'alert' && step.to.length === 0)
        add('warns', 'alert to nobody', `The alert in ${where} goes to nobody; name at least one person.`, place);
      const waiting = waitingOf(step);
      if (waiting && !waiting.noReply)
        add(
          'warns',
          'no way out',
          `The ${step.kind} in ${where} has no exit for when nobody replies; add “no reply in …”, so that the run does not wait for ever.`,
          place,
        );
    }
  }

  for (const { code, reason, sceneId, stepId } of [
    ...adContradictions(loop, known.brief ?? null),
    ...channelFindings(loop, known.lines ?? []),
  ])
    add('warns', code, reason, { sceneId: sceneId ?? undefined, stepId: stepId ?? undefined });

  const circle = circleWithoutWaiting(loop);
  if (circle)
    add(
      'stops',
      'circle',
      `The loop goes round without ever waiting for the person: ${circle
        .map((place) => `scene ${place.sceneIndex + 1} (${place.scene.name})`)
        .filter((each, at, all) => each !== all[at - 1])
        .join(', then ')}, and again. Let one of them ask or wait.`,
      {
        sceneId: circle[0]!.scene.id,
        stepId: circle[0]!.step.id,
      },
    );
  const reached = reachedScenes(loop, known.others ?? []);
  for (const [index, scene] of loop.scenes.entries())
    if (!reached.has(scene.id))
      add('warns', 'scene never reached', `Scene ${index + 1} (${scene.name}) is never reached: nothing leads there.`, {
        sceneId: scene.id,
      });
  const started = startedInACircle(loop, known.others ?? []);
  if (started) add('warns', 'loops in a circle', started);
  return findings;
}

/** Every text of a step that may hold merge fields. */
export function textsOf(step: Step): string[] {
  return kindOf(step)
    .texts(step)
    .filter((text) => text !== '');
}

/** Whether a step can lead to the one after it. */
function leadsOn(step: Step): boolean {
  if (step.kind === 'end') return false;
  if (step.kind === 'go') return step.to === 'next' || step.back === true;
  if (step.kind === 'vary') return step.arms.some((arm) => arm.to === 'next');
  if (step.kind === 'split')
    return step.otherwise === undefined || [step.otherwise, step.unknown, ...step.arms.map((arm) => arm.to)].includes('next');
  if (step.kind === 'say' && step.choices?.length) return exitsOf(step).some((exit) => exit.to === 'next');
  return true;
}

function shareLine(loop: Loop, cue: Loop['cues'][number], other: Loop, theirs: Loop['cues'][number]): boolean {
  const mine = linesOf(loop, cue);
  const ours = linesOf(other, theirs);
  return mine.length === 0 || ours.length === 0 || mine.some((key) => ours.includes(key));
}

/** Loops that start each other by tags, lists and fields, back to this one. The engine stops such a chain; the builder should know. */
function startedInACircle(loop: Loop, others: Loop[]): string | null {
  const all = [loop, ...others.filter((other) => other.name !== loop.name)];
  const next = (from: Loop) => all.filter((to) => raisedBy(from).some((what) => startsOn(to).includes(what)));
  const trail: Loop[] = [];
  const seen = new Set<Loop>();
  const visit = (at: Loop): Loop[] | null => {
    trail.push(at);
    for (const to of next(at)) {
      if (to === loop) return [...trail, loop];
      if (seen.has(to)) continue;
      seen.add(to);
      const found = visit(to);
      if (found) return found;
    }
    trail.pop();
    return null;
  };
  const circle = visit(loop);
  if (!circle) return null;
  const cue = loop.cues.find((each) => ['tag', 'list joined', 'field changed'].includes(each.kind));
  return `Loops start each other in a circle: ${circle.map((each) => `“${each.name}”`).join(', then ')}${cue ? ` (by ${cueWords(cue)})` : ''}. It is cut off after five starts without the person; end it earlier, such as by letting the cue start once.`;
}

const shorten = (text: string) => (text.length > 40 ? `${text.slice(0, 39)}…` : text);

/** The fields a loop writes, with the type each must have. Fields that a `set` alone writes are text, or numbers where they are calculated with. */
export function fieldsOf(loop: Loop): FieldTypes {
  const types: FieldTypes = {};
  const steps = loop.scenes.flatMap((scene) => scene.steps);
  for (const step of steps) if (step.kind === 'ask') types[step.field] ??= step.reply;
  for (const step of steps)
    if (step.kind === 'set') for (const change of step.changes) if (change.do === 'calculate') types[change.field] ??= 'number';
  for (const cue of loop.cues) if (cue.kind === 'date') types[cue.field] ??= 'date';
  for (const step of steps) {
    if (step.kind === 'wait' && step.until && 'field' in step.until) types[step.until.field] ??= 'date';
    if (step.kind === 'set')
      for (const change of step.changes) {
        if (change.do === 'copy') types[change.field] ??= types[change.from] ?? 'text';
        if (change.do === 'field' || change.do === 'now') types[change.field] ??= 'text';
      }
    if (step.kind === 'send out') for (const { field } of step.reply ?? []) types[field] ??= 'text';
  }
  return types;
}
