import type { Step } from '@dart-loop/core';
import { choiceLetter } from '@dart-loop/core/language/choice';
import { waitingOf } from '@dart-loop/core/engine/steps/index';
import { Menu, type MenuItem } from '../../ui/Menu';
import { withReminder } from './WaitingRows';
import { Words } from '../../ui/Words';
import type { StepActions } from './stepActions';

/** What can be done with a step as a whole. */
export function StepMenu({
  step,
  actions,
  change,
  openForm,
}: {
  step: Step;
  actions: StepActions;
  change: (path: (string | number)[], value: unknown) => void;
  openForm: (() => void) | null;
}) {
  const waits = waitingOf(step);
  const more = waits && withReminder(waits.reminders ?? []);
  const act = (what: Parameters<StepActions['act']>[1]) => () => actions.act(step.id, what);
  const items: MenuItem[] = [
    ...(openForm
      ? [
          {
            key: 'form',
            words: 'Settings',
            more: 'what its line does not show at once',
            onChoose: openForm,
          },
        ]
      : []),
    ...(step.kind === 'say' && (step.choices?.length ?? 0) < 60
      ? [
          {
            key: 'choice',
            words: 'Add a choice',
            onChoose: () => actions.addChoice(step.id, `Choice ${choiceLetter(step.choices?.length ?? 0)}`),
          },
        ]
      : []),
    ...(step.kind === 'ask' && step.reply === 'yes/no' && !step.yes
      ? [{ key: 'yes', words: 'Add an exit for yes', onChoose: () => change(['yes'], 'next') }]
      : []),
    ...(step.kind === 'ask' && step.reply === 'yes/no' && !step.no
      ? [{ key: 'no', words: 'Add an exit for no', onChoose: () => change(['no'], 'next') }]
      : []),
    ...(waits && !waits.retry
      ? [
          {
            key: 'retry',
            words: 'Ask again when it cannot be read',
            onChoose: () => change(['retry'], { times: 2, text: 'Sorry, I did not catch that.' }),
          },
        ]
      : []),
    ...(waits?.retry
      ? ([1, 2, 3] as const)
          .filter((times) => times !== waits.retry!.times)
          .map((times) => ({
            key: `times${times}`,
            words: times === 1 ? 'Ask again once' : `Ask again up to ${times} times`,
            onChoose: () => change(['retry', 'times'], times),
          }))
      : []),
    ...(waits && !waits.otherwise
      ? [
          {
            key: 'otherwise',
            words: 'Add the exit “could not read it”',
            onChoose: () => change(['otherwise'], 'next'),
          },
        ]
      : []),
    ...(waits && !waits.somethingElse
      ? [
          {
            key: 'else',
            words: 'Add the exit “something else”',
            onChoose: () => change(['somethingElse'], 'next'),
          },
        ]
      : []),
    ...(waits && !waits.dontKnow
      ? [
          {
            key: 'dontKnow',
            words: 'Add the exit “does not know”',
            onChoose: () => change(['dontKnow'], 'next'),
          },
        ]
      : []),
    ...(waits && !waits.cancel
      ? [{ key: 'cancel', words: 'Add the exit “never mind”', onChoose: () => change(['cancel'], 'end') }]
      : []),
    ...(more
      ? [{ key: 'reminder', words: 'Add a reminder', onChoose: () => change(['reminders'], more) }]
      : []),
    ...(waits && !waits.noReply
      ? [
          {
            key: 'noReply',
            words: 'Add the exit “no reply in 3 h”',
            onChoose: () => change(['noReply'], { after: '3h', to: 'end' }),
          },
        ]
      : []),
    { key: 'below', words: 'Add a step below', more: 'a', onChoose: act('add below') },
    { key: 'lands', words: 'See it on each channel', more: 'l', onChoose: act('see how it lands') },
    { key: 'rehearse', words: 'Rehearse from this scene', more: 'r', onChoose: act('rehearse') },
    { key: 'up', words: 'Move up', more: 'Alt+↑', onChoose: act('up') },
    { key: 'down', words: 'Move down', more: 'Alt+↓', onChoose: act('down') },
    { key: 'twice', words: 'Duplicate', onChoose: act('duplicate') },
    { key: 'copy', words: 'Copy', more: 'Ctrl+C', onChoose: act('copy') },
    { key: 'cut', words: 'Cut', more: 'Ctrl+X', onChoose: act('cut') },
    { key: 'paste', words: 'Paste below', more: 'Ctrl+V', onChoose: act('paste') },
    { key: 'choose', words: 'Choose several', more: 'x', onChoose: act('choose') },
    { key: 'remove', words: 'Remove', more: 'Delete', tone: 'red', onChoose: act('remove') },
  ];
  return (
    <Menu label={`More for this ${step.kind}`} title={`Settings of this ${step.kind}`} items={items}>
      <Words aria-hidden color="quiet" style={{ fontSize: 20, textAlign: 'center', width: 44 }}>
        ⋯
      </Words>
    </Menu>
  );
}
