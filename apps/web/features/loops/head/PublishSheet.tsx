import { useState } from 'react';
import { View } from 'react-native';
import { writtenText } from '@dart-loop/core/language/writtenMerge';
import type { LoopPage } from '@dart-loop/contract';
import type { Examined } from '@dart-loop/core/loops/check/examine';
import { Field } from '../../../ui/Field';
import { Dialog } from '../../../ui/Menu';
import { ActionButton, QuietButton } from '../../../ui/press';
import { Notice, Refused } from '../../../ui/parts';
import { exact } from '../../../ui/time';
import { Words } from '../../../ui/Words';
import { counted } from '@dart-loop/core/language/counted';
import { TickRow } from '../../../ui/rows';
import { toMend } from '../Findings';
import type { Draft } from '../useDraft';
import { useAct } from '../../session/useAct';

const people = (count: number) => counted(count, 'person', 'people');

/**
 * What publishing does, before it is done: what changed, what is open, what becomes of those on the way; now,
 * or at a time.
 */
export function PublishSheet({
  draft,
  page,
  examined,
  open,
  onClose,
  onPublished,
  seeChecks,
}: {
  draft: Draft;
  page: LoopPage;
  examined: Examined | null;
  open: boolean;
  onClose: () => void;
  onPublished: (words: string) => void;
  seeChecks: () => void;
}) {
  const { act, busy, problem } = useAct();
  const [along, setAlong] = useState(false);
  const [at, setAt] = useState('');
  const findings = examined?.findings ?? [];
  const stops = findings.filter(({ severity }) => severity === 'stops');
  const risky = toMend(findings).filter(({ severity }) => severity === 'warns');
  const failing = (examined?.takes ?? []).filter((take) => take.changed > 0);
  const steps = new Set(page.draft.scenes.flatMap((scene) => scene.steps.map((step) => step.id)));
  const stay = Object.entries(page.onTheWay).reduce(
    (sum, [step, count]) => sum + (steps.has(step) ? 0 : count),
    0,
  );
  const blocked = stops.length > 0 || failing.length > 0 || page.differences.length === 0;
  const when = at.trim() === '' ? null : readMoment(at);
  const publish = () =>
    act(async () => {
      await draft.publish(when ? when.toISOString() : undefined);
      if (along && !when) await draft.act('move').catch(() => undefined);
      onPublished(
        when
          ? `It is published ${exact(when.toISOString())}, as the draft is now.`
          : `Published. The next conversation follows this version; ${along ? 'people on the way are moved along where the step they wait at is still there' : 'people on the way stay on theirs'}.`,
      );
      onClose();
    });
  const foot = (
    <>
      <Refused problem={problem} />
      <View style={{ flexDirection: 'row', gap: 8 }}>
        <ActionButton
          title={
            when
              ? 'Schedule it'
              : page.live
                ? `Publish ${counted(page.differences.length, 'change')}`
                : 'Publish now'
          }
          label={when ? 'Schedule it' : 'Publish now'}
          busy={busy}
          disabled={blocked || (at.trim() !== '' && !when)}
          onPress={() => void publish()}
        />
        <QuietButton title="Not yet" onPress={onClose} />
      </View>
    </>
  );
  return (
    <Dialog
      title={page.live ? `Publish over version ${page.live.version}` : 'Publish'}
      open={open}
      onClose={onClose}
      foot={foot}
    >
      <View style={{ padding: 12, gap: 14 }}>
        <View style={{ gap: 2 }}>
          <Words kind="smallStrong">What changes</Words>
          {page.live ? (
            page.differences.map((words) => <Words key={words}>{`· ${words}`}</Words>)
          ) : (
            <Words>The loop has not been published before.</Words>
          )}
        </View>
        {stops.length > 0 && (
          <Notice tone="warning">{`${stops.length === 1 ? 'One thing stands' : `${stops.length} things stand`} in the way: ${writtenText(stops[0]!.reason, [])}`}</Notice>
        )}
        {failing.length > 0 && (
          <Notice tone="warning">{`${failing.length === 1 ? `The take “${failing[0]!.name}” plays` : `${failing.length} takes play`} otherwise than kept. Accept what has changed, or mend the draft.`}</Notice>
        )}
        {risky.length > 0 && (
          <View style={{ gap: 2 }}>
            <Words kind="smallStrong">{`Open findings · ${risky.length}`}</Words>
            {risky.slice(0, 3).map(({ reason }) => (
              <Words key={reason} kind="small">{`◇ ${reason}`}</Words>
            ))}
            {risky.length > 3 && <Words kind="small">{`and ${risky.length - 3} more`}</Words>}
          </View>
        )}
        {(stops.length > 0 || risky.length > 0 || failing.length > 0) && (
          <View style={{ alignSelf: 'flex-start' }}>
            <QuietButton
              outlined
              title="See the checks"
              onPress={() => {
                onClose();
                seeChecks();
              }}
            />
          </View>
        )}
        {page.live && (
          <View style={{ gap: 2 }}>
            <Words kind="smallStrong">People in it now</Words>
            <Words>
              {page.peopleInIt === 0
                ? 'Nobody is in it now.'
                : `${people(page.peopleInIt)} in it. They finish on the version they began with${stay > 0 ? `; ${people(stay)} of them wait at a step that this version no longer has` : ''}.`}
            </Words>
            {page.peopleInIt - stay > 0 && (
              <TickRow
                label={`Move ${people(page.peopleInIt - stay)} to the new version`}
                hint="each in their conversation’s turn"
                on={along}
                onChange={setAlong}
              />
            )}
          </View>
        )}
        <Field
          label="Schedule for"
          placeholder={`now; or ${exampleMoment()}`}
          value={at}
          onChangeText={setAt}
          problem={
            at.trim() !== '' && !when ? `Write a day and a time ahead, such as ${exampleMoment()}.` : null
          }
          hint="The draft is published as it is now, even if it is edited before then."
        />
      </View>
    </Dialog>
  );
}

/** "2026-11-27 09:00" or "27.11.2026 9:00" by this device's clock; null where it is no moment ahead. */
function readMoment(typed: string): Date | null {
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})[ T]+(\d{1,2}):(\d{2})$/.exec(typed.trim());
  if (!iso) return null;
  const [year, month, day, hour, minute] = iso.slice(1).map(Number) as [
    number,
    number,
    number,
    number,
    number,
  ];
  const at = new Date(year, month - 1, day, hour, minute);
  return at.getMonth() === month - 1 && at.getDate() === day && at.getTime() > Date.now() ? at : null;
}
const exampleMoment = () => {
  const at = new Date(Date.now() + 86_400_000);
  const two = (n: number) => String(n).padStart(2, '0');
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())} 09:00`;
};
