import { Group, TextRow } from '../../../ui/rows';
import { Words } from '../../../ui/Words';
import { MergedRow } from '../merging';
import { Languages } from './Languages';
import { NumberRow } from './NumberRow';
import { OptionalExit } from './OptionalExit';
import type { FormProps } from './formProps';

/** What is said where the sources do not know, where that leads, how often it answers, how long it waits. */
export function AnswerForm({ step, set, scenes, known }: FormProps<'answer'>) {
  const { notKnown } = step;
  const unknown = (more: NonNullable<typeof notKnown>) => {
    const { text, times, to } = { ...notKnown, ...more };
    // How often it may be is only asked for its exit.
    const next = { ...(text?.trim() && { text }), ...(times && to && { times }), ...(to && { to }) };
    set([['notKnown'], Object.keys(next).length > 0 ? next : undefined]);
  };
  return (
    <>
      <Words kind="small">
        {known?.hasSources === false
          ? 'The client has no sources yet. Add a page, a document or a pair under Answers.'
          : 'Questions are answered in the words of the client’s sources. Where they are not sure, what comes near is offered.'}
      </Words>
      <Group title="When the sources do not say it">
        <MergedRow
          label="Text"
          placeholder="I do not know that."
          multiline
          value={notKnown?.text ?? ''}
          onChange={(text) => unknown({ text })}
        />
        <OptionalExit
          label="Separate exit when it is not known"
          of="Not known"
          to={notKnown?.to}
          scenes={scenes}
          onChange={(to) => unknown({ to })}
        />
        {notKnown?.to !== undefined && (
          <NumberRow
            label="After how many in a row"
            placeholder="1"
            value={notKnown.times}
            most={5}
            onChange={(times) => unknown({ times })}
          />
        )}
      </Group>
      <OptionalExit
        label="Separate exit for who wants a person"
        of="Wants a person"
        to={step.person}
        scenes={scenes}
        onChange={(to) => set([['person'], to])}
      />
      <NumberRow
        label="Answers before the loop goes on"
        placeholder="10"
        value={step.most}
        most={50}
        onChange={(most) => set([['most'], most])}
      />
      <TextRow
        label="Wait for more messages"
        placeholder="not at all"
        hint="Such as 10s: several messages are then one question."
        value={step.gather ?? ''}
        read={(typed) =>
          typed.trim() === '' || /^[1-9]\d{0,2}[sm]$/.test(typed.trim()) ? null : 'A time such as 10s or 2m.'
        }
        onChange={(typed) => set([['gather'], typed.trim() || undefined])}
      />
      <Languages step={step} set={set} known={known} labels={[]} list="options" />
    </>
  );
}
