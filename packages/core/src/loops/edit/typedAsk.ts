import type { FieldType, FieldTypes } from '../../people/person';
import type { Loop } from '../model/loop';
import { questionsOf } from '../../engine/steps';
import { fieldKey } from '../../language/slug';
import type { NewStep } from './edits';
import { newAsk } from './newSteps';

const ASKED: [RegExp, FieldType][] = [
  [/^(?:e-?mail)(?:\s+address)?\b/i, 'email'],
  [/^(?:phone|telephone|mobile)(?:\s+number)?\b/i, 'phone'],
  [/^number\b/i, 'number'],
  [/^(?:date|day)\b/i, 'date'],
  [/^time\b/i, 'time'],
  [/^yes\s*(?:\/|or)\s*no\b/i, 'yes/no'],
  [/^(?:page address|web address|website|page)\b/i, 'page address'],
  [/^(?:file|photo|picture)\b/i, 'file'],
  [/^(?:place|location)\b/i, 'place'],
  [/^(?:anything|text)\b/i, 'text'],
];
/** What a question asks for, by its words. */
const GUESSED: [RegExp, FieldType][] = [
  [/\be-?mail\b/i, 'email'],
  [/\b(phone|mobile|telephone)\b|\bnumber can we (call|reach)\b/i, 'phone'],
  [/\bhow (many|much|old|big)\b/i, 'number'],
  [/\b(which|what) (day|date)\b|\bwhen\b.*\b(day|date)\b/i, 'date'],
  [/\b(what|which) time\b/i, 'time'],
  [/^(do|does|did|are|is|have|has|can|could|would|will|may|shall|should) /i, 'yes/no'],
  [/\b(website|web address|web page)\b/i, 'page address'],
  [/\b(photo|picture)\b/i, 'file'],
];
const STOP = new Set(
  'a an and are at can could do does for have how i in is it its many may me much my of on or our shall should the to us want we please that the their there they this what when where which who will would you your like'.split(
    ' ',
  ),
);

/**
 * A question as typed after `ask`: `email`, `How many people?`, `Which: A / B`, `several of A / B`.
 * `loop` and `types` say which fields there are, so that no two of different types have one name.
 */
export function readAsk(rest: string, loop: Loop, types: FieldTypes): NewStep {
  if (rest === '') return newAsk('text');
  const several = /^several(?:\s+of)?:?\s+/i.exec(rest);
  const body = several ? rest.slice(several[0].length) : rest;
  const named = several
    ? null
    : ASKED.find(([pattern]) => pattern.test(body) && /^\s*(?::|$|\p{Lu})/u.test(body.replace(pattern, '')));
  const said = named ? body.replace(named[0], '').replace(/^\s*:?\s*/, '') : body;
  const [, question = '', listed] = /^(.*?[?:])\s*(\S.*\s\/\s.*)$/s.exec(said) ?? [];
  const options = (listed ?? (several || (!named && / \/ /.test(said) && !/\?/.test(said)) ? said : ''))
    .split(/\s+\/\s+/)
    .map((label) => label.trim())
    .filter(Boolean);
  if (options.length >= 2) {
    const text = listed ? question.replace(/:$/, '') : undefined;
    const reply = several ? 'several of' : 'one of';
    return newAsk(reply, {
      text,
      field: freeField(loop, types, text ?? newAsk(reply).field, reply),
      options,
    });
  }
  const reply = named?.[1] ?? GUESSED.find(([pattern]) => pattern.test(said))?.[1] ?? 'text';
  const text = said === '' ? undefined : said;
  const own = ['email', 'phone'].includes(reply) || text === undefined ? newAsk(reply).field : text;
  return newAsk(reply, { text, field: freeField(loop, types, own, reply) });
}

/** A field for the answer: two or three of the question's words, and none of another type. */
function freeField(loop: Loop, types: FieldTypes, words: string, reply: FieldType): string {
  const telling = words
    .toLowerCase()
    .replace(/[^\p{L}\p{N}\s_-]/gu, '')
    .split(/\s+/)
    .filter((word) => word && !STOP.has(word));
  const wish = fieldKey((telling.length > 0 ? telling : words.split(/\s+/)).slice(0, 3).join(' '));
  const used: FieldTypes = { ...types };
  for (const step of loop.scenes.flatMap((scene) => scene.steps))
    if (step.kind === 'ask') for (const { field, reply } of questionsOf(step)) used[field] ??= reply;
  let name = wish;
  for (let n = 2; used[name] !== undefined && used[name] !== reply; n++) name = `${wish.slice(0, 36)}_${n}`;
  return name;
}
