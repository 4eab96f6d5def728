import { counted } from '../../../language/counted';
import { check } from '../check';

/** Steps that answer from sources: of a client that has none; with nowhere to go for who is not answered. */
export const sources = check<'no sources' | 'sheet not as expected' | 'nobody behind the answers'>(
  function* ({ places, known }) {
    for (const { step, where, at } of places) {
      if (step.kind !== 'answer') continue;
      if (known.hasSources === false)
        yield {
          ...at,
          code: 'no sources',
          severity: 'stops',
          reason: `The client has no sources that the answer in ${where} could answer from. Add a page, a document or a pair under Answers.`,
        };
      if (known.sheet && (known.sheet.unexpected > 0 || known.sheet.isStale))
        yield {
          ...at,
          code: 'sheet not as expected',
          severity: 'stops',
          reason:
            known.sheet.unexpected > 0
              ? `On the client’s sheet ${counted(known.sheet.unexpected, 'question does', 'questions do')} not come out as expected, and the answer in ${where} waits for that. Mend it under Answers.`
              : `The client’s question sheet is being asked again, and the answer in ${where} waits for that. Try again in a moment.`,
        };
      if (step.notKnown?.to === undefined && step.person === undefined)
        yield {
          ...at,
          code: 'nobody behind the answers',
          severity: 'warns',
          reason: `The answer in ${where} leads nowhere when the sources do not say it, or somebody wants a person. Add an exit, such as “not known → a scene that hands over”.`,
        };
    }
  },
);
