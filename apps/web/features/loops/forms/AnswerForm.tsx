import { Group, TextRow, TickRow } from '../../../ui/rows';
import { Words } from '../../../ui/Words';
import { MergedRow } from '../merging';
import { TargetMenu } from '../TargetMenu';
import { Languages } from './Languages';
import type { FormProps } from './formProps';

/** A number typed into a row, where it is one of these; empty takes it away. */
const whole = (most: number) => (typed: string) =>
  typed.trim() === '' || (/^\d+$/.test(typed.trim()) && Number(typed) >= 1 && Number(typed) <= most)
    ? null
    : `A number from 1 to ${most}.`;
const numberOf = (typed: string) => (typed.trim() === '' ? undefined : Number(typed));

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
        <TickRow
          label="Separate exit when it is not known"
          on={notKnown?.to !== undefined}
          onChange={(on) => unknown({ to: on ? 'next' : undefined })}
        />
        {notKnown?.to !== undefined && (
          <>
            <TargetMenu scenes={scenes} to={notKnown.to} of="Not known" onChoose={(to) => unknown({ to })} />
            <TextRow
              label="After how many in a row"
              placeholder="1"
              value={notKnown.times === undefined ? '' : String(notKnown.times)}
              read={whole(5)}
              onChange={(typed) => unknown({ times: numberOf(typed) })}
            />
          </>
        )}
      </Group>
      <TickRow
        label="Separate exit for who wants a person"
        on={step.person !== undefined}
        onChange={(on) => set([['person'], on ? 'next' : undefined])}
      />
      {step.person !== undefined && (
        <TargetMenu
          scenes={scenes}
          to={step.person}
          of="Wants a person"
          onChoose={(to) => set([['person'], to])}
        />
      )}
      <TextRow
        label="Answers before the loop goes on"
        placeholder="10"
        value={step.most === undefined ? '' : String(step.most)}
        read={whole(50)}
        onChange={(typed) => set([['most'], numberOf(typed)])}
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
