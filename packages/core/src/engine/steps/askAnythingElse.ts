import { wantsNothingMore } from '../../language/answers';
import { fold } from '../../language/fold';
import { phrases } from '../../language/phrases';
import type { Value } from '../../people/person';
import type { Ask } from './askModel';
import { store } from './askAnswered';
import { yesOrNo } from './askBack';
import { lettered, readAnswer } from './askReading';
import { go, type Outcome, type Play, type Reply, type StepReading, type StepWorld } from './step';
import { NEXT } from '../../loops/model/basics';

/** Asks for more of the options, where any are left; what was named so far is stored already. */
export function askAnythingElse(step: Ask, value: Value, play: Play): Outcome {
  const named = value.type === 'several of' ? value.value : [];
  const taken = (step.options ?? []).filter(({ label }) => named.includes(label)).map(({ id }) => id);
  const { language } = play.world;
  const left = lettered(step, language, taken);
  // Who wants none of them is not asked for more.
  if (named.length === 0 || left.length === 0) return go(NEXT);
  const text =
    step.variants?.[language]?.anythingElse ?? step.anythingElse?.text ?? phrases(language).anythingElse;
  play.note({ code: 'asked back', what: 'anything else' });
  play.say([text, ...left].join('\n'));
  return { kind: 'wait', for: 'reply', aside: { kind: 'anything else', values: named } };
}

/** Reads the answer: more of the options, which are added, or that it is all. */
export function readAnythingElse(
  step: Ask,
  reply: Reply,
  world: StepWorld,
  values: readonly string[],
): StepReading {
  if (reply.kind === 'text' && (wantsNothingMore(fold(reply.text)) || yesOrNo(reply, world) === false))
    return { ok: true, summary: 'that it is all', take: () => go(NEXT) };
  const reading = readAnswer(step, reply, world);
  if (!reading.ok || reading.value.type !== 'several of')
    return { ok: false, reason: reading.ok ? 'it is none of the options' : reading.reason };
  const more = reading.value.value;
  if (more.length === 0) return { ok: true, summary: 'that it is all', take: () => go(NEXT) };
  return {
    ok: true,
    summary: 'more of the options',
    take(play) {
      // In the order of the options, as an answer in one go would be.
      const all = (step.options ?? []).map(({ label }) => label);
      const value: Value = {
        type: 'several of',
        value: all.filter((label) => values.includes(label) || more.includes(label)),
      };
      store(step, value, play);
      return askAnythingElse(step, value, play);
    },
  };
}
