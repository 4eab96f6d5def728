import type { FieldType } from '@dart-loop/core/people/person';
import { newAsk } from '@dart-loop/core/loops/edit/newSteps';
import { readDuration } from '@dart-loop/core/loops/edit/typedTime';
import { durationWords } from '@dart-loop/core/loops/model/basics';
import { Words } from '../../../ui/Words';
import { TargetMenu } from '../TargetMenu';
import { AskParts } from './AskParts';
import { Languages } from './Languages';
import { QuestionRows } from './QuestionRows';
import { Group, PickRow, TextRow, TickRow } from '../../../ui/rows';
import { MergedRow } from '../merging';
import { without, type Changes, type FormProps } from './formProps';

const KNOWN = [
  ['ask', 'ask all the same'],
  ['confirm', 'ask whether it is still right'],
  ['skip', 'pass over the question'],
] as const;
const SHOWN_BACK = [
  ['unsure', 'if the reading is unsure'],
  ['always', 'always'],
  ['never', 'never'],
] as const;

/** What of a question goes with other kinds of answer only, and is taken away. */
const alongside = (reply: FieldType): Changes =>
  without(
    ...(reply === 'yes/no' ? [] : ['yes', 'no']),
    ...(reply === 'several of' ? [] : ['anythingElse']),
    ...(newAsk(reply).options || reply === 'yes/no' ? ['gather'] : []),
  );

/** How an answer is read, bounded, passed over, and what happens when it is known already. */
export function AskForm({ step, set, scenes, known }: FormProps<'ask'>) {
  const listed = step.reply === 'one of' || step.reply === 'several of';
  return (
    <>
      <QuestionRows question={step} put={set} alongside={alongside} />
      <AskParts step={step} set={set} />
      {step.reply === 'several of' && !step.also && (
        <TickRow
          label="Ask “Anything else?” until nothing more is named"
          on={step.anythingElse !== undefined}
          onChange={(on) => set([['anythingElse'], on ? {} : undefined])}
        />
      )}
      {step.anythingElse && (
        <MergedRow
          label="Words for “Anything else?”"
          placeholder="Anything else?"
          value={step.anythingElse.text ?? ''}
          onChange={(text) => set([['anythingElse', 'text'], text.trim() === '' ? undefined : text])}
        />
      )}
      <PickRow
        label="Show the answer back and ask whether it is right"
        value={step.showBack?.when ?? 'unsure'}
        options={SHOWN_BACK}
        onChange={(when) =>
          set([
            ['showBack'],
            when === 'unsure' && !step.showBack?.text
              ? undefined
              : { when, ...(step.showBack?.text && { text: step.showBack.text }) },
          ])
        }
      />
      {step.showBack && step.showBack.when !== 'never' && (
        <MergedRow
          label="Words for showing it back"
          placeholder={`{{ answers.${step.field} }}, is that right?`}
          value={step.showBack.text ?? ''}
          onChange={(text) => set([['showBack', 'text'], text.trim() === '' ? undefined : text])}
        />
      )}
      <PickRow
        label="If the answer is already known"
        value={step.known ?? 'ask'}
        options={step.also ? KNOWN.filter(([key]) => key !== 'confirm') : KNOWN}
        onChange={(value) =>
          set(
            [['known'], value === 'ask' ? undefined : value],
            ...(value === 'confirm' ? [] : ([[['confirm'], undefined]] as [string[], undefined][])),
          )
        }
      />
      {step.known === 'confirm' && (
        <MergedRow
          label="Confirmation question"
          placeholder="We have {{ person.email }}. Is that still right?"
          value={step.confirm ?? ''}
          onChange={(confirm) => set([['confirm'], confirm.trim() === '' ? undefined : confirm])}
        />
      )}
      <TickRow
        label="Can be skipped"
        on={step.skip !== undefined}
        onChange={(on) => set([['skip'], on ? {} : undefined])}
      />
      {step.skip && (
        <Group title="Skipping">
          <TextRow
            label="Button label"
            placeholder="Skip"
            value={step.skip.label ?? ''}
            onChange={(label) => set([['skip', 'label'], label.trim() === '' ? undefined : label])}
          />
          <Words kind="small">leads to</Words>
          <TargetMenu
            scenes={scenes}
            to={step.skip.to ?? 'next'}
            of="Skipping"
            onChoose={(to) => set([['skip', 'to'], to === 'next' ? undefined : to])}
          />
        </Group>
      )}
      {!listed && step.reply !== 'yes/no' && !step.also && (
        <TextRow
          label="Combine several messages into one answer after a pause of"
          placeholder="20 s"
          value={step.gather ? durationWords(step.gather) : ''}
          read={(typed) =>
            typed.trim() === '' || readDuration(typed)
              ? null
              : 'A time is a number and a unit, such as “20 s”.'
          }
          onChange={(typed) => set([['gather'], readDuration(typed) ?? undefined])}
        />
      )}
      <Languages step={step} set={set} known={known} labels={step.options ?? []} list="options" />
    </>
  );
}
