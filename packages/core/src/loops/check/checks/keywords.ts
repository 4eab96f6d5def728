import { readConsentWord } from '../../../consent/words';
import { clashes } from '../../../engine/decide/clashes';
import { MATCH_WORDS } from '../../../engine/cues';
import { fold } from '../../../language/fold';
import { check } from '../check';

/** Keywords that another loop hears too, or that mean something else before any loop does. */
export const keywords = check<
  'keyword never heard' | 'lettered keyword' | 'keyword taken' | 'keyword shadowed'
>(function* ({ loop, known }) {
  for (const cue of loop.cues) {
    if (cue.kind !== 'keyword' || cue.match === 'pattern') continue;
    const without = (word: string) => cue.words.filter((each) => each !== word);
    const fixOf = (word: string) =>
      cue.words.length > 1
        ? {
            fix: {
              words: `Take “${word}” out`,
              edits: [{ edit: 'cue' as const, cueId: cue.id, path: ['words'], value: without(word) }],
            },
          }
        : {};
    for (const word of cue.words) {
      if (cue.match === 'exactly' && readConsentWord(word, 'sms', ['es', 'fr', 'de', 'pt', 'it']) !== null)
        yield {
          code: 'keyword never heard',
          severity: 'warns',
          cueId: cue.id,
          about: word,
          reason: `The keyword “${word}” is also an opt-out, opt-in or help word, which goes before every loop; choose another.`,
          ...fixOf(word),
        };
      if (/^[a-z]$/.test(fold(word)))
        yield {
          code: 'lettered keyword',
          severity: 'warns',
          cueId: cue.id,
          about: word,
          reason: `The keyword “${word}” is also the letter of an answer where choices have letters; choose a longer one.`,
          ...fixOf(word),
        };
    }
    for (const { word, other, match, same } of clashes(loop, cue, known.others ?? []))
      yield same
        ? {
            code: 'keyword taken',
            severity: 'warns',
            cueId: cue.id,
            about: `${word}|${other.name}`,
            reason: `The keyword “${word}” starts the loop “${other.name}” too, on the same lines and matched the same way; the one that stands first in the client’s order answers.`,
            ...fixOf(word),
          }
        : {
            code: 'keyword shadowed',
            severity: 'warns',
            cueId: cue.id,
            about: `${word}|${other.name}`,
            reason: `The keyword “${word}” is heard by the loop “${other.name}” first, which takes it ${MATCH_WORDS[match]}.`,
            ...fixOf(word),
          };
  }
});
