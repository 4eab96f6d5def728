import { notSaid, type FromSources } from '../engine/steps/fromSources';
import type { Answered } from './answering';
import type { SourceIndex } from './finding';
import { textOf, type Passage } from './passage';
import { saidOf, type Fits } from './saying';

/** Characters of a heading that names a passage among others. */
const MOST_LABEL = 80;

/**
 * What an `answer` step is given of what the sources say, in their own words: each question by itself, with
 * what may be said of it in `fits`. A passage that cannot be said at that length is not offered.
 */
export const toSay = (index: SourceIndex, answered: readonly Answered[], fits: Fits): FromSources =>
  answered.map(({ question, zone, text, found, disagree }) => {
    const [first] = found;
    if (zone === 'answer')
      return {
        ...{ ...notSaid(question), came: 'answered', text },
        from: nameOf(first!.passage),
        passage: first!.passage.id ?? null,
      };
    const asked = index.read(question);
    const offers = found.flatMap(({ passage }) => {
      const said = saidOf(passage, asked, fits);
      return said === null ? [] : [{ label: labelOf(passage), text: said, passage: passage.id ?? null }];
    });
    const distinct = offers.filter(
      ({ label }, at) => offers.findIndex((each) => each.label === label) === at,
    );
    return {
      ...{ ...notSaid(question), offers: distinct },
      came: distinct.length > 0 ? 'offered' : disagree ? 'disagree' : 'not known',
    };
  });

/** A passage as people name it: its innermost headings, and its source where it stands below none. */
export const nameOf = ({ headings, source }: Passage): string => headings.slice(-2).join(', ') || source;

function labelOf(passage: Passage): string {
  const words = passage.headings.at(-1) ?? textOf(passage);
  if (words.length <= MOST_LABEL) return words;
  return `${words.slice(0, MOST_LABEL - 1).replace(/\s+\S*$/, '')}…`;
}
