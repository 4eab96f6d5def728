import type { Loop } from '@dart-loop/core';
import { Group, TextRow, TickRow } from '../../../../ui/rows';
import { Words } from '../../../../ui/Words';
import { listed, none, type CueEditor, type OwnProps } from './cueEditor';

export const adClick: CueEditor<'ad click'> = {
  words: 'An ad click',
  more: 'an ad opens the conversation',
  fresh: (name) => ({ kind: 'ad click', ref: name }),
  Own,
};

function Own({ cue, set, loop }: OwnProps<'ad click'>) {
  return (
    <>
      <TextRow
        label="Ad ids, comma-separated"
        placeholder="120330022001"
        value={(cue.ads ?? []).join(', ')}
        onChange={(typed) => set({ ads: none(listed(typed)) })}
      />
      <TextRow
        label="Or the ad’s reference"
        placeholder="autumn"
        value={cue.ref ?? ''}
        onChange={(ref) => set({ ref: ref.trim() || undefined })}
      />
      <Group title="Questions that must be answered in the ad">
        {questionsOf(loop).map(({ id, words }) => (
          <TickRow
            key={id}
            label={words}
            on={cue.required?.includes(id) ?? false}
            onChange={(on) =>
              set({
                required: none(
                  on ? [...(cue.required ?? []), id] : (cue.required ?? []).filter((each) => each !== id),
                ),
              })
            }
          />
        ))}
        {questionsOf(loop).length === 0 && <Words kind="small">The loop asks nothing yet.</Words>}
      </Group>
    </>
  );
}

const questionsOf = (loop: Loop) =>
  loop.scenes.flatMap((scene) =>
    scene.steps.flatMap((step) =>
      step.kind === 'ask' || (step.kind === 'say' && step.choices?.length)
        ? [{ id: step.id, words: step.text.slice(0, 80) }]
        : [],
    ),
  );
