import { FieldType } from '@dart-loop/core/people/person';
import { newAsk } from '@dart-loop/core/loops/edit/newSteps';
import { readDuration } from '@dart-loop/core/loops/edit/typedTime';
import { freshId } from '@dart-loop/core/loops/model/loop';
import { durationWords } from '@dart-loop/core/loops/model/basics';
import { READERS } from '@dart-loop/core/language/replies/index';
import { Words } from '../../../ui/Words';
import { TargetMenu } from '../TargetMenu';
import { Languages } from './Languages';
import { Group, PickRow, TextRow, TickRow } from '../../../ui/rows';
import type { FormProps } from './StepForm';

const KNOWN = [
  ['ask', 'ask all the same'],
  ['confirm', 'ask whether it is still right'],
  ['skip', 'pass over the question'],
] as const;
const DAYS = [
  ['ahead', 'ahead'],
  ['past', 'past'],
  ['any', 'any'],
] as const;

/** How an answer is read, bounded, passed over, and what happens when it is known already. */
export function AskForm({ step, set, scenes, known }: FormProps<'ask'>) {
  const listed = step.reply === 'one of' || step.reply === 'several of';
  return (
    <>
      <PickRow
        label="The answer is"
        value={step.reply}
        options={FieldType.options.map((type) => [type, READERS[type].words] as const)}
        onChange={(reply) => {
          const fresh = newAsk(reply);
          set(
            [['reply'], reply],
            [['options'], fresh.options ? (step.options ?? fresh.options) : undefined],
            ...(reply === 'yes/no'
              ? []
              : ([
                  [['yes'], undefined],
                  [['no'], undefined],
                ] as [string[], undefined][])),
            ...(reply === 'number'
              ? []
              : ([
                  [['min'], undefined],
                  [['max'], undefined],
                ] as [string[], undefined][])),
            ...(reply === 'date' ? [] : ([[['days'], undefined]] as [string[], undefined][])),
            ...(fresh.options || reply === 'yes/no'
              ? ([[['gather'], undefined]] as [string[], undefined][])
              : []),
          );
        }}
      />
      {listed && (
        <TextRow
          label="Possible answers, one per line"
          multiline
          value={(step.options ?? []).map(({ label }) => label).join('\n')}
          read={(typed) =>
            typed.split('\n').filter((each) => each.trim()).length >= 2 ? null : 'Name at least two.'
          }
          onChange={(typed) => {
            const labels = typed
              .split('\n')
              .map((each) => each.trim())
              .filter(Boolean)
              .slice(0, 26);
            const taken: string[] = [];
            set([
              ['options'],
              labels.map((label, at) => {
                const there = step.options?.[at];
                // The same label is the same option; else the one that stood in this line was reworded.
                const same =
                  step.options?.find((option) => option.label === label) ??
                  (there && !labels.includes(there.label) ? there : null);
                const id =
                  same && !taken.includes(same.id)
                    ? same.id
                    : freshId(label, [...taken, ...(step.options ?? []).map((each) => each.id)]);
                taken.push(id);
                return { ...same, id, label };
              }),
            ]);
          }}
        />
      )}
      {step.reply === 'number' && (
        <Group title="Bounds">
          {(['min', 'max'] as const).map((bound) => (
            <TextRow
              key={bound}
              label={bound === 'min' ? 'At least' : 'At most'}
              placeholder={bound === 'min' ? '1' : '12'}
              value={step[bound] === undefined ? '' : String(step[bound])}
              read={(typed) =>
                typed.trim() === '' || Number.isFinite(Number(typed)) ? null : 'A number, such as 12.'
              }
              onChange={(typed) => set([[bound], typed.trim() === '' ? undefined : Number(typed)])}
            />
          ))}
        </Group>
      )}
      {step.reply === 'date' && (
        <PickRow
          label="The day lies"
          value={step.days ?? 'ahead'}
          options={DAYS}
          onChange={(days) => set([['days'], days === 'ahead' ? undefined : days])}
        />
      )}
      <PickRow
        label="If the answer is already known"
        value={step.known ?? 'ask'}
        options={KNOWN}
        onChange={(value) =>
          set(
            [['known'], value === 'ask' ? undefined : value],
            ...(value === 'confirm' ? [] : ([[['confirm'], undefined]] as [string[], undefined][])),
          )
        }
      />
      {step.known === 'confirm' && (
        <TextRow
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
      {!listed && step.reply !== 'yes/no' && (
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
