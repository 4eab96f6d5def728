import type { LoopPage } from '@dart-loop/contract';
import type { Loop } from '@dart-loop/core';
import { counted } from '@dart-loop/core/language/counted';
import { Notice } from '../../../ui/parts';
import { QuietButton } from '../../../ui/press';
import { exact } from '../../../ui/time';
import { Words } from '../../../ui/Words';
import type { Draft } from '../useDraft';
import { ClashNotice } from './ClashNotice';

/** What is to be known of the loop just now: what is scheduled, in the way, or not saved. */
export function LoopNotices({
  draft,
  page,
  loop,
  stops,
  result,
  act,
}: {
  draft: Draft;
  page: LoopPage;
  loop: Loop;
  /** How many findings prevent publishing. */
  stops: number;
  result: { tone: 'quiet' | 'failing'; words: string } | null;
  act: (what: string, body: object, words: string) => void;
}) {
  return (
    <>
      {page.scheduled && (
        <Notice tone="quiet">
          <Words
            kind="small"
            color="ink"
          >{`Scheduled to be published ${exact(page.scheduled.at)}${page.scheduled.by ? `, by ${page.scheduled.by}` : ''}.`}</Words>
          <QuietButton
            outlined
            title="Cancel the schedule"
            onPress={() => act('unschedule', {}, 'The schedule is cancelled.')}
          />
        </Notice>
      )}
      {page.scheduleFailed && (
        <Notice tone="failing">{`It was scheduled to be published and was not. ${page.scheduleFailed}`}</Notice>
      )}
      {stops > 0 && (
        <Notice tone="warning">
          {`${counted(stops, 'thing')} to fix before you can publish, marked ◆ in the script.`}
        </Notice>
      )}
      {draft.cameIn && <ClashNotice came={draft.cameIn} loop={loop} edit={draft.edit} noted={draft.noted} />}
      {draft.problem && (
        <Notice tone="failing">{`${draft.problem.message}${draft.problem.status === 0 ? '' : ' Your text is kept on this device.'}`}</Notice>
      )}
      {result && <Notice tone={result.tone}>{result.words}</Notice>}
    </>
  );
}
