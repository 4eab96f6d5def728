import type { FieldTypes } from '../../people/person';
import { freshId, type Loop } from '../model/loop';
import { MOST_REMINDERS, inOrder, type Target } from '../model/basics';
import { Step, waitingOf, type Option } from '../../engine/steps';
import { fold } from '../../language/fold';
import { fieldKey } from '../../language/slug';
import { addScene, addStep, editStep, type NewStep } from './edits';
import { newSay } from './newSteps';
import { readChange } from './typedChange';
import { readAsk } from './typedAsk';
import { answerExit, ARROW, readStep } from './typedKinds';
import { readCondition } from './typedCondition';
import { readDuration, readWait } from './typedTime';

/** What came of typing: the loop, the steps that were made, and what of it could not be read. */
export interface TypedInto {
  loop: Loop;
  stepIds: string[];
  /** Where the next step would go. */
  sceneId: string;
  index: number;
  /**
   * One sentence; null when all was read. Nothing is lost: a line that cannot be read as anything else is
   * said.
   */
  problem: string | null;
}

/**
 * Adds what was typed or pasted to a scene, a step a line: `ask email`, `wait 2h`, `no reply 3h -> Nudge`, `-
 * Saturday -> Pick a time`, `tag vip`, `if town is Harwick -> 3`, `go Nudge`, `go Sizes
 * and back for each dogs`, `## A new scene`. A numbered
 * list becomes questions in its order; what begins with no word of ours is said. Targets are scenes by name
 * or number; one that is not there yet is made.
 */
export function typeInto(
  loop: Loop,
  at: { sceneId: string; index?: number },
  written: string,
  types: FieldTypes = {},
): TypedInto {
  const scene = loop.scenes.find((each) => each.id === at.sceneId);
  const typing = new Typing(loop, at.sceneId, at.index ?? scene?.steps.length ?? 0, types);
  const lines = written
    .replace(/\r\n?/g, '\n')
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '');
  const numbered = lines.length > 1 && lines.filter((line) => NUMBERED.test(line)).length > lines.length / 2;
  for (const line of lines)
    typing.line(
      numbered && NUMBERED.test(line) ? `ask ${line.replace(NUMBERED, '')}` : line.replace(NUMBERED, ''),
    );
  return {
    loop: typing.loop,
    stepIds: typing.stepIds,
    sceneId: typing.sceneId,
    index: typing.index,
    problem: typing.problem,
  };
}

const NUMBERED = /^\d{1,2}[.)]\s+/;
class Typing {
  stepIds: string[] = [];
  problem: string | null = null;
  /** The step that exits and choices belong to. */
  #last: string | null;
  /** Options that were named line by line, by the id of their question. */
  readonly #named = new Map<string, Option[]>();

  constructor(
    public loop: Loop,
    public sceneId: string,
    public index: number,
    private readonly types: FieldTypes,
  ) {
    this.#last = this.#scene?.steps[index - 1]?.id ?? null;
  }

  get #scene() {
    return this.loop.scenes.find((scene) => scene.id === this.sceneId);
  }
  get #lastStep(): Step | null {
    return this.loop.scenes.flatMap((scene) => scene.steps).find((step) => step.id === this.#last) ?? null;
  }

  line(line: string): void {
    const scene = /^(?:#{1,3}|scene:?)\s+(.+)$/i.exec(line);
    if (scene) return this.#newScene(scene[1]!.trim());
    if (/^[-*•]\s+\S/.test(line) || /^\[.+\]/.test(line)) return this.#choice(line);
    const word =
      /^(say|ask|wait|set|tag|untag|join|leave|clear|opt|if|otherwise|vary|go|hand over|alert|send out|book|answer|end|no reply|could not read|something else|does not know|not known|a person|never mind|retry|remind|->|→)(?=$|[\s:])/i
        .exec(line)?.[1]
        ?.toLowerCase();
    if (word === undefined || !this.#read(word, line.slice(word.length).replace(/^\s*:?\s*/, ''), line))
      this.#add(newSay(line));
  }

  /** False: the line only begins like one of ours, and is said. */
  #read(word: string, rest: string, line: string): boolean {
    switch (word) {
      case 'say':
        if (rest === '') return false;
        return this.#add(newSay(rest));
      case 'ask':
        return this.#ask(rest);
      case 'wait': {
        const wait = readWait(rest);
        return wait !== null && this.#add({ kind: 'wait', ...wait });
      }
      case 'set': {
        const change = readChange(rest);
        return change !== null && this.#change(change);
      }
      case 'tag':
      case 'untag':
        return (
          rest !== '' &&
          rest.length <= 60 &&
          !/[.?!]$/.test(rest) &&
          this.#change({ do: word === 'tag' ? 'add tag' : 'remove tag', tag: rest })
        );
      case 'join':
      case 'leave':
        return (
          rest !== '' &&
          rest.length <= 60 &&
          !/[.?!]$/.test(rest) &&
          this.#change({
            do: word === 'join' ? 'join list' : 'leave list',
            list: rest.replace(/^list\s+/i, ''),
          })
        );
      case 'clear':
        return /^[\w ]{1,40}$/.test(rest) && this.#change({ do: 'clear', field: fieldKey(rest) });
      case 'opt':
        return (
          (rest === 'in' || rest === 'out') && this.#change({ do: rest === 'in' ? 'opt in' : 'opt out' })
        );
      case 'if': {
        const [when, to] = rest.split(ARROW);
        const condition = readCondition(when ?? '');
        if (!condition || to === undefined) return false;
        const arm = { when: condition, to: this.#target(to) };
        const last = this.#lastStep;
        if (last?.kind === 'split')
          return this.#edit((step) =>
            step.kind === 'split' ? { ...step, arms: [...step.arms, arm] } : step,
          );
        return this.#add({ kind: 'split', arms: [arm] });
      }
      case 'otherwise': {
        const to = this.#target(line.split(ARROW)[1] ?? rest);
        if (this.#lastStep?.kind === 'split')
          return this.#edit((step) => ({ ...step, otherwise: to }) as Step);
        return this.#exit('otherwise', to);
      }
      case 'vary':
      case 'go':
      case '->':
      case '→':
      case 'hand over':
      case 'alert':
      case 'send out':
      case 'book':
      case 'answer': {
        const step = readStep(word, rest, (words) => this.#target(words));
        return step !== null && this.#add(step);
      }
      case 'end':
        return rest === '' && this.#add({ kind: 'end' });
      case 'no reply': {
        const [time, to] = rest.replace(/^in\s+/i, '').split(ARROW);
        const after = readDuration(time ?? '');
        if (!after) return false;
        const last = this.#lastStep;
        if (last?.kind === 'hand over')
          return this.#edit(
            (step) => ({ ...step, giveUp: { after, to: this.#target(to ?? 'end') } }) as Step,
          );
        return this.#exit('noReply', { after, to: this.#target(to ?? 'end') });
      }
      case 'could not read':
        return this.#exit('otherwise', this.#target(line.split(ARROW)[1] ?? 'next'));
      case 'something else':
        return this.#exit('somethingElse', this.#target(line.split(ARROW)[1] ?? 'next'));
      case 'does not know':
        return this.#exit('dontKnow', this.#target(line.split(ARROW)[1] ?? 'next'));
      case 'not known':
      case 'a person': {
        if (this.#lastStep?.kind !== 'answer' || line.split(ARROW).length < 2) return false;
        const to = this.#target(line.split(ARROW)[1]!);
        return this.#edit((step) => answerExit(step, word, rest, to));
      }
      case 'never mind':
        return line.split(ARROW).length > 1 && this.#exit('cancel', this.#target(line.split(ARROW)[1]!));
      case 'remind': {
        const [, time, text] = /^(?:after\s+|in\s+)?(\d+\s*[a-z]+)\s*:?\s+(.+)$/is.exec(rest) ?? [];
        const after = readDuration(time ?? '');
        const waiting = this.#lastStep && waitingOf(this.#lastStep);
        if (!after || text === undefined || !waiting) return false;
        const reminders = inOrder([...(waiting.reminders ?? []), { after, text }]);
        return reminders.length <= MOST_REMINDERS && this.#exit('reminders', reminders);
      }
      case 'retry': {
        const [, times = '2', text] = /^(?:(\d)\s*(?:times)?\s*:?\s+)?(.+)$/is.exec(rest) ?? [];
        return (
          text !== undefined && this.#exit('retry', { times: Math.max(1, Math.min(5, Number(times))), text })
        );
      }
      default:
        return false;
    }
  }

  #ask(rest: string): boolean {
    return this.#add(readAsk(rest, this.loop, this.types));
  }

  #choice(line: string): void {
    const [label = '', to] = line
      .replace(/^[-*•]\s+/, '')
      .replace(/^\[(.+)\](?=$|\s)/, '$1')
      .split(ARROW)
      .map((part) => part.trim());
    const last = this.#lastStep;
    const short = label.slice(0, 80);
    if (last?.kind === 'ask' && (last.options || (last.reply === 'text' && this.stepIds.includes(last.id)))) {
      const own = this.#named.get(last.id) ?? (this.stepIds.includes(last.id) ? [] : (last.options ?? []));
      const option = {
        id: freshId(
          short,
          own.map(({ id }) => id),
        ),
        label: short,
        ...(to && { to: this.#target(to) }),
      };
      const named = [...own, option].slice(0, 26);
      this.#named.set(last.id, named);
      // A question with options has at least two.
      const options = named.length >= 2 ? named : [...named, { id: 'other', label: 'Something else' }];
      const reply = last.reply === 'several of' ? last.reply : 'one of';
      this.#edit((step) => ({ ...step, reply, options }) as Step);
      return;
    }
    const target = to ? this.#target(to) : 'next';
    if (last?.kind !== 'say') {
      this.#add({
        ...newSay('Which one?'),
        choices: [{ id: freshId(short, []), label: short, to: target }],
        noReply: { after: '1d', to: 'end' },
      } as NewStep);
      return;
    }
    const choices = last.choices ?? [];
    const choice = {
      id: freshId(
        short,
        choices.map(({ id }) => id),
      ),
      label: short,
      to: target,
    };
    this.#edit((step) => ({ ...step, choices: [...choices, choice].slice(0, 60) }) as Step);
  }

  #exit(key: string, value: unknown): boolean {
    const last = this.#lastStep;
    if (!last || !(waitingOf(last) ?? last.kind === 'say')) {
      this.problem =
        'An exit such as “no reply 3h → the end” belongs under a question or a say with choices; there is none above.';
      return true;
    }
    if (!waitingOf(last)) {
      this.problem = `“${key === 'noReply' ? 'no reply' : 'an exit'}” needs something to reply to: add choices to the say above first, such as “- Yes”.`;
      return true;
    }
    return this.#edit((step) => ({ ...step, [key]: value }) as Step);
  }

  #change(change: Extract<NewStep, { kind: 'set' }>['changes'][number]): boolean {
    const last = this.#lastStep;
    // Lines that set one after the other are one step.
    if (last?.kind === 'set' && this.stepIds.includes(last.id) && last.changes.length < 20)
      return this.#edit((step) =>
        step.kind === 'set' ? { ...step, changes: [...step.changes, change] } : step,
      );
    return this.#add({ kind: 'set', changes: [change] });
  }

  #add(step: NewStep): boolean {
    const sound = Step.safeParse({ id: 'x', ...step });
    if (!sound.success) {
      this.problem = `${sound.error.issues[0]!.message[0]!.toUpperCase()}${sound.error.issues[0]!.message.slice(1)}.`;
      return true;
    }
    if ((this.#scene?.steps.length ?? 0) >= 100) {
      this.problem = 'A scene has at most 100 steps; begin another.';
      return true;
    }
    const { loop, stepId } = addStep(this.loop, this.sceneId, step, this.index);
    this.loop = loop;
    this.index++;
    this.stepIds.push(stepId);
    this.#last = stepId;
    return true;
  }

  #edit(edit: (step: Step) => Step): boolean {
    const sound = Step.safeParse(edit(this.#lastStep!));
    if (!sound.success) this.problem = `${sound.error.issues[0]!.message}.`;
    else this.loop = editStep(this.loop, this.#last!, edit);
    return true;
  }

  #newScene(name: string): void {
    const there = this.loop.scenes.find((scene) => fold(scene.name) === fold(name));
    if (there) {
      this.sceneId = there.id;
      this.index = there.steps.length;
    } else {
      const here = this.loop.scenes.findIndex((scene) => scene.id === this.sceneId);
      const made = addScene(this.loop, name.slice(0, 80), here + 1);
      this.loop = made.loop;
      this.sceneId = made.sceneId;
      this.index = 0;
    }
    this.#last = this.#scene?.steps[this.index - 1]?.id ?? null;
  }

  #target(words: string): Target {
    const said = words
      .trim()
      .replace(/^["“](.*)["”]$/, '$1')
      .replace(/[.,;]$/, '');
    if (/^(the )?end$/i.test(said)) return 'end';
    if (said === '' || /^(the )?next( step)?$/i.test(said)) return 'next';
    const numbered = /^(\d{1,3})(?:\s|$)/.exec(said);
    const found =
      this.loop.scenes.find((scene) => fold(scene.name) === fold(said) || scene.id === said) ??
      (numbered ? this.loop.scenes[Number(numbered[1]) - 1] : undefined) ??
      this.loop.scenes.find((scene) => fold(said).length > 2 && fold(scene.name).startsWith(fold(said)));
    if (found) return found.id;
    const made = addScene(this.loop, said.slice(0, 80));
    this.loop = made.loop;
    return made.sceneId;
  }
}
