import { adContradictions, type AdContradiction } from '../../../channels/adQuestions';
import { check } from '../check';

/**
 * What contradicts itself where an ad asks the first questions; and people from ads and lead forms who see no
 * privacy link.
 */
export const adQuestionsFit = check<AdContradiction['code']>(function* ({ loop, known }) {
  const found = adContradictions(loop, known.brief ? (known.brief as Record<string, string>) : null);
  for (const { code, reason, sceneId, stepId } of found)
    yield {
      code,
      severity: 'warns',
      sceneId,
      stepId,
      about: code === 'answer leads nowhere' || code === 'answers alike' ? reason : '',
      reason,
      ...(code === 'required and skippable' && stepId
        ? {
            fix: {
              words: 'Let it not be skipped',
              edits: [{ edit: 'step' as const, stepId, path: ['skip'], value: undefined }],
            },
          }
        : {}),
    };
  const fromAds = loop.cues.find((cue) => cue.kind === 'ad click' || cue.kind === 'lead form');
  if (
    fromAds &&
    known.brief &&
    !known.brief.privacy_link?.trim() &&
    !found.some(({ code }) => code === 'no privacy link')
  )
    yield {
      code: 'no privacy link',
      severity: 'warns',
      cueId: fromAds.id,
      reason:
        'People come from an ad, and the client’s brief has no privacy link; put it there, and into the first message.',
    };
});
