import { View } from 'react-native';
import { conditionWords } from '@dart-loop/core/people/conditionWords';
import { readCondition } from '@dart-loop/core/loops/edit/typedCondition';
import { readWait } from '@dart-loop/core/loops/edit/typedTime';
import { STEPS } from '@dart-loop/core/engine/steps/index';
import { QuietButton } from '../../../ui/press';
import { Words } from '../../../ui/Words';
import { TargetMenu } from '../TargetMenu';
import { Group, PickRow, TextRow } from '../../../ui/rows';
import { OptionalExit } from './OptionalExit';
import type { FormProps } from './formProps';

/** What is waited for, as it is typed. */
export function WaitForm({ step, set }: FormProps<'wait'>) {
  return (
    <>
      <TextRow
        label="Wait"
        autoFocus
        value={STEPS.wait.words(step)}
        hint="“2 h”, “until 09:00”, “until Monday or Friday 9:00”, “until 1 day before arrival 10:00”, “until open”"
        read={(typed) =>
          readWait(typed)
            ? null
            : 'Write a time such as “2 h”, or “until Monday 9:00”, “until 1 day before arrival 10:00”, “until open”.'
        }
        onChange={(typed) => {
          const wait = readWait(typed);
          if (wait)
            set(
              [['for'], 'for' in wait ? wait.for : undefined],
              [['until'], 'until' in wait ? wait.until : undefined],
            );
        }}
      />
      <Words kind="small">Times are in the person’s time zone; opening hours are the client’s.</Words>
    </>
  );
}

const CONDITIONS =
  '“town is Harwick”, “party size is at least 8”, “tagged vip”, “not in list News”, “on sms”, “open”, two with “and” or “or”';

/** By what it leads where. */
export function SplitForm({ step, set, scenes }: FormProps<'split'>) {
  return (
    <>
      <Words kind="small">{`The first condition that is true is used. Write ${CONDITIONS}.`}</Words>
      {step.arms.map((arm, index) => (
        <View key={index} style={{ gap: 4 }}>
          <TextRow
            label={`If ${index + 1}`}
            placeholder="town is Harwick"
            value={conditionWords(arm.when)}
            read={(typed) =>
              typed === conditionWords(arm.when) || readCondition(typed)
                ? null
                : `That cannot be read as a condition. Write ${CONDITIONS}.`
            }
            onChange={(typed) => {
              const when = typed === conditionWords(arm.when) ? arm.when : readCondition(typed);
              if (when) set([['arms', index, 'when'], when]);
            }}
          />
          <View style={{ flexDirection: 'row', alignItems: 'center', justifyContent: 'space-between' }}>
            <TargetMenu
              scenes={scenes}
              to={arm.to}
              of={`If ${index + 1}`}
              onChoose={(to) => set([['arms', index, 'to'], to])}
            />
            {step.arms.length > 1 && (
              <QuietButton
                title="Remove"
                label={`Remove condition ${index + 1}`}
                tone="quiet"
                onPress={() => set([['arms', index], undefined])}
              />
            )}
          </View>
        </View>
      ))}
      <QuietButton
        outlined
        title="Add a condition"
        onPress={() => set([['arms'], [...step.arms, { when: { open: true }, to: 'next' }]])}
      />
      <Group title="None of these is true">
        <TargetMenu
          scenes={scenes}
          to={step.otherwise ?? 'next'}
          of="Otherwise"
          onChoose={(to) => set([['otherwise'], to === 'next' ? undefined : to])}
        />
      </Group>
      <OptionalExit
        label="Separate exit if not known"
        of="Not known"
        to={step.unknown}
        first={step.otherwise}
        scenes={scenes}
        onChange={(to) => set([['unknown'], to])}
      />
    </>
  );
}

/** Arms by weight, and what they are compared on. */
export function VaryForm({ step, set, scenes }: FormProps<'vary'>) {
  const goal = !step.goal ? 'none' : 'tag' in step.goal ? 'tag' : 'scene';
  return (
    <>
      <Words kind="small">
        Each person is assigned an arm by weight and keeps it. A weight of 0 assigns nobody new.
      </Words>
      {step.arms.map((arm, index) => (
        <View key={arm.id} style={{ gap: 4 }}>
          <TextRow
            label={`Weight of arm ${arm.id}`}
            value={String(arm.weight)}
            read={(typed) =>
              typed.trim() !== '' && Number(typed) >= 0 ? null : 'A weight is a number from 0 on.'
            }
            onChange={(typed) => set([['arms', index, 'weight'], Number(typed)])}
          />
          <View style={{ flexDirection: 'row', alignItems: 'center', justifyContent: 'space-between' }}>
            <TargetMenu
              scenes={scenes}
              to={arm.to}
              of={`Arm ${arm.id}`}
              onChoose={(to) => set([['arms', index, 'to'], to])}
            />
            {step.arms.length > 2 && (
              <QuietButton
                title="Remove"
                label={`Remove arm ${arm.id}`}
                tone="quiet"
                onPress={() => set([['arms', index], undefined])}
              />
            )}
          </View>
        </View>
      ))}
      {step.arms.length < 10 && (
        <QuietButton
          outlined
          title="Add an arm"
          onPress={() => {
            const id =
              'abcdefghijklmnop'.split('').find((letter) => !step.arms.some((arm) => arm.id === letter)) ??
              `arm-${step.arms.length}`;
            set([['arms'], [...step.arms, { id, weight: 50, to: 'next' }]]);
          }}
        />
      )}
      <PickRow
        label="Compare by"
        value={goal}
        options={
          [
            ['none', 'nothing'],
            ['tag', 'a tag'],
            ['scene', 'a scene that is reached'],
          ] as const
        }
        onChange={(what) =>
          set([
            ['goal'],
            what === 'none' ? undefined : what === 'tag' ? { tag: 'reached' } : { scene: scenes[0]!.id },
          ])
        }
      />
      {step.goal && 'tag' in step.goal && (
        <TextRow label="The tag" value={step.goal.tag} onChange={(tag) => set([['goal', 'tag'], tag])} />
      )}
      {step.goal && 'scene' in step.goal && (
        <PickRow
          label="The scene"
          value={step.goal.scene}
          options={scenes.map(({ id, name }, at) => [id, `${at + 1} ${name}`] as const)}
          onChange={(scene) => set([['goal', 'scene'], scene])}
        />
      )}
    </>
  );
}
