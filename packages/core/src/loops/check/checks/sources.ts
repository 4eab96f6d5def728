import { check } from '../check';

/** Steps that answer from sources: of a client that has none; with nowhere to go for who is not answered. */
export const sources = check<'no sources' | 'nobody behind the answers'>(function* ({ places, known }) {
  for (const { step, where, at } of places) {
    if (step.kind !== 'answer') continue;
    if (known.hasSources === false)
      yield {
        ...at,
        code: 'no sources',
        severity: 'stops',
        reason: `The client has no sources that the answer in ${where} could answer from. Add a page, a document or a pair under Answers.`,
      };
    if (step.notKnown?.to === undefined && step.person === undefined)
      yield {
        ...at,
        code: 'nobody behind the answers',
        severity: 'warns',
        reason: `The answer in ${where} leads nowhere when the sources do not say it, or somebody wants a person. Add an exit, such as “not known → a scene that hands over”.`,
      };
  }
});
