import type { PeopleVocabulary } from '@dart-loop/contract';
import { quoted } from '@dart-loop/core/people/conditionWords';
import { CHANNEL_KINDS } from '@dart-loop/core/people/client';
import { ofConversation } from '@dart-loop/core/people/condition';
import { readSentence } from '@dart-loop/core/loops/edit/typedCondition';

/** Something that can be put at the end of a sentence: what is shown, and the sentence with it. */
export interface Suggestion {
  words: string;
  sentence: string;
}

const MOST = 8;

/**
 * Ways on from a sentence as it is typed: what its last part may become, or what may join it once it reads.
 */
export function suggest(sentence: string, known: PeopleVocabulary): Suggestion[] {
  const [, before = '', part = ''] =
    /^(.*(?:\s(?:and|or)\s+(?:not\s+)?|\(\s*|^not\s+))?(.*)$/is.exec(sentence) ?? [];
  const typed = part.trimStart().toLowerCase();
  const found = clauses(known, typed).filter(
    (clause) => clause.toLowerCase().startsWith(typed) && clause.toLowerCase() !== typed.trimEnd(),
  );
  const inner =
    found.length > 0
      ? found
      : clauses(known, typed).filter((clause) => typed.length > 1 && clause.toLowerCase().includes(typed));
  const read = readSentence(sentence);
  const goesOn = typed !== '' && read.ok && ofConversation(read.condition) === null;
  const on = goesOn
    ? ['and ', 'or '].map((word) => ({ words: word.trim(), sentence: `${sentence.trimEnd()} ${word}` }))
    : [];
  return [
    ...on,
    ...inner
      .slice(0, MOST - on.length)
      .map((clause) => ({ words: clause.trim(), sentence: before + clause })),
  ];
}

function clauses(known: PeopleVocabulary, typed: string): string[] {
  const lines = [...new Set(known.lines.map((line) => line.channel))].sort(
    (a, b) => CHANNEL_KINDS.indexOf(a) - CHANNEL_KINDS.indexOf(b),
  );
  const field = known.fields.find(({ key }) => typed.startsWith(`${key.replaceAll('_', ' ')} is`));
  if (field) {
    const name = field.key.replaceAll('_', ' ');
    const values: Partial<Record<typeof field.type, string[]>> = {
      number: ['is at least 1', 'is below 10', 'is between 1 and 10', 'is known'],
      date: ['is in the next 7 d', 'is in the last 30 d', 'is before today', 'is known'],
      'yes/no': ['is yes', 'is no', 'is known'],
    };
    const ways = values[field.type] ?? [
      ...field.options.map((option) => `is ${quoted(option)}`),
      'is known',
      'is unknown',
      'is not ',
    ];
    return ways.map((way) => `${name} ${way}`);
  }
  return [
    ...known.segments.map(({ name }) => `in the segment ${quoted(name)}`),
    ...lines.map((channel) => `opted in on ${channel}`),
    ...known.lists.map((list) => `on the list ${quoted(list)}`),
    ...known.tags.map((tag) => `tagged ${quoted(tag)}`),
    ...known.fields.map(({ key }) => `${key.replaceAll('_', ' ')} is `),
    'seen in the last 30 d',
    'first met in the last 7 d',
    ...known.loops.flatMap(({ name }) => [
      `entered ${quoted(name)}`,
      `finished ${quoted(name)}`,
      `left ${quoted(name)}`,
      `under way in ${quoted(name)}`,
    ]),
    ...lines.map((channel) => `reachable on ${channel}`),
    ...lines.map((channel) => `opted out of ${channel}`),
    ...known.sources.map((source) => `came from ${quoted(source)}`),
    'not ',
  ];
}
