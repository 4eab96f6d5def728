import { Pressable, View } from 'react-native';
import type { Loop, Finding, Step } from '@dart-loop/core';
import { addChoice, addScene, duplicateStep, editStep, moveStep, removeStep, setTarget, withValueAt } from '@dart-loop/core/edit/edits';
import { durationWords } from '@dart-loop/core/model/basics';
import { findStep } from '@dart-loop/core/model/loop';
import { exitsOf, kindOf, waitingOf } from '@dart-loop/core/run/steps/index';
import { READERS } from '@dart-loop/core/words/replies/index';
import { choiceLetter } from '@dart-loop/core/words/choice';
import { fieldKey } from '@dart-loop/core/words/slug';
import { Menu, type MenuItem } from '../../ui/Menu';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { EditableText, type MergeField } from './EditableText';
import { MergedText } from './MergedText';
import { SetLines } from './SetLines';
import { TargetMenu } from './TargetMenu';
import { FindingLines, FindingMark } from './Findings';

export interface StepLineProps {
  loop: Loop;
  step: Step;
  /** How many people have reached the step; null when the loop is not live. */
  count: number | null;
  findings: Finding[];
  fields: MergeField[];
  edit: (change: (loop: Loop) => Loop) => void;
  /** Shows a step and puts the focus on it, after it was made or moved. */
  show: (stepId: string) => void;
}

const TIMES = ['10m', '30m', '1h', '3h', '6h', '12h', '1d', '2d', '3d', '7d'];

/** One line of a scene: its count in the margin, its verb, its text, and the ways out under it. */
export function StepLine({ loop, step, count, findings, fields, edit, show }: StepLineProps) {
  const { colors, wide } = useTheme();
  const change = (path: (string | number)[], value: unknown) =>
    edit((before) => editStep(before, step.id, (each) => withValueAt(each, path, value)));
  const verb = (
    <Words kind="verb" style={{ width: wide ? 54 : undefined, lineHeight: wide ? 24 : 18 }}>
      {step.kind}
    </Words>
  );
  const exits = exitsOf(step);
  const lead = (path: (string | number)[]) => ({
    onChoose: (to: string) => edit((before) => setTarget(before, step.id, path, to)),
    onNewScene: () =>
      edit((before) => {
        const here = findStep(before, step.id);
        const made = addScene(before, `Scene ${before.scenes.length + 1}`, here ? here.sceneIndex + 1 : undefined);
        return setTarget(made.loop, step.id, path, made.sceneId);
      }),
  });
  return (
    <View
      role="group"
      aria-label={`${step.kind}${'text' in step ? `: ${step.text}` : ''}`}
      tabIndex={0}
      {...({ dataSet: { step: step.id } } as object)}
      style={{ flexDirection: 'row', paddingHorizontal: wide ? 14 : 8, paddingVertical: 6, borderRadius: 6 }}
    >
      <View
        style={{
          width: wide ? 48 : 40,
          borderRightWidth: 1,
          borderColor: colors.line,
          paddingRight: 8,
          marginRight: wide ? 12 : 10,
          alignItems: 'flex-end',
        }}
      >
        {count !== null && (
          <Words kind="code" style={{ lineHeight: 24 }} {...({ title: `${count} people reached this step` } as object)}>
            {String(count)}
          </Words>
        )}
        <FindingMark findings={findings} />
      </View>
      <View style={{ flex: 1, minWidth: 0, flexDirection: wide ? 'row' : 'column' }}>
        {verb}
        <View style={{ flex: wide ? 1 : undefined, minWidth: 0 }}>
          <View style={{ flexDirection: 'row', gap: 4 }}>
            <View style={{ flex: 1, minWidth: 0 }}>
              {(step.kind === 'say' || step.kind === 'ask') && (
                <EditableText
                  handle={step.id}
                  value={step.text}
                  label={step.kind === 'ask' ? 'Question' : 'Text'}
                  placeholder={step.kind === 'ask' ? 'What do you ask?' : 'What do you say?'}
                  onChange={(text) => change(['text'], text)}
                  fields={fields}
                />
              )}
              {step.kind === 'ask' && (
                <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', columnGap: 4 }}>
                  <Words kind="small">{`${READERS[step.reply].words}, saved in`}</Words>
                  <EditableText
                    mono
                    multiline={false}
                    value={step.field}
                    label="Field"
                    placeholder="field"
                    onChange={(field) => change(['field'], fieldKey(field))}
                  >
                    <Words kind="smallStrong">{step.field}</Words>
                  </EditableText>
                  {details(step) !== '' && <Words kind="small">{details(step)}</Words>}
                </View>
              )}
              {step.kind === 'set' && <SetLines step={step} change={change} fields={fields} />}
              {step.kind === 'go' && step.to !== undefined && <TargetMenu loop={loop} to={step.to} of="go" {...lead(['to'])} />}
              {readWords(step) !== '' && <MergedText text={readWords(step)} />}
              {step.kind === 'say' && details(step) !== '' && <Words kind="small">{details(step)}</Words>}
            </View>
            <StepMenu loop={loop} step={step} edit={edit} show={show} change={change} />
          </View>
          {labelled(step).map(({ id, label, to }, index, all) => {
            const [list, what] = step.kind === 'ask' ? (['options', 'option'] as const) : (['choices', 'choice'] as const);
            return (
              <ExitRow
                key={id}
                letter={choiceLetter(index)}
                remove={`Remove the ${what} ${label}`}
                onRemove={() => change([list], removed(all, index))}
              >
                <View style={{ flexGrow: 1, flexShrink: 1, flexBasis: wide ? 0 : 'auto', minWidth: 100, justifyContent: 'center' }}>
                  <EditableText
                    multiline={false}
                    value={label}
                    label={`${what === 'choice' ? 'Choice' : 'Option'} ${choiceLetter(index)}`}
                    placeholder={what === 'choice' ? 'What can they choose?' : 'What can they answer?'}
                    onChange={(next) => change([list, index, 'label'], next)}
                  />
                </View>
                {(step.kind === 'say' || (step.kind === 'ask' && step.reply === 'one of')) && (
                  <TargetMenu loop={loop} to={to ?? 'next'} of={label} {...lead([list, index, 'to'])} />
                )}
              </ExitRow>
            );
          })}
          {exits
            .filter((exit) => exit.kind !== 'choice' && exit.kind !== 'go' && exit.path[0] !== 'options')
            .map((exit) => (
              <ExitRow
                key={exit.kind + exit.words}
                letter="·"
                remove={`Remove the exit ${exit.words}`}
                onRemove={() => change(exit.path[0] === 'arms' ? exit.path.slice(0, -1) : exit.path.slice(0, 1), undefined)}
              >
                {exit.kind === 'no reply' ? (
                  <Menu
                    compact
                    label={`${exit.words}. Change the time`}
                    title="No reply in"
                    items={TIMES.map((time) => ({
                      key: time,
                      words: durationWords(time),
                      chosen: waitingOf(step)?.noReply?.after === time,
                      onChoose: () => change(['noReply', 'after'], time),
                    }))}
                  >
                    <Words color="quiet">{exit.words}</Words>
                  </Menu>
                ) : (
                  <Words color="quiet" style={{ paddingVertical: 10 }}>
                    {exit.words}
                  </Words>
                )}
                <TargetMenu loop={loop} to={exit.to} of={exit.words} {...lead(exit.path)} />
              </ExitRow>
            ))}
          {waitingOf(step)?.retry && (
            <ExitRow letter="↻" remove="Remove the retry" onRemove={() => change(['retry'], undefined)}>
              <View style={{ flex: 1, minWidth: 120, paddingVertical: 8 }}>
                <Words kind="small">{`when it cannot be read, ${waitingOf(step)!.retry!.times === 1 ? 'once' : `up to ${waitingOf(step)!.retry!.times} times`}:`}</Words>
                <EditableText
                  value={waitingOf(step)!.retry!.text}
                  label="Retry wording"
                  placeholder="How do you ask again?"
                  onChange={(text) => change(['retry', 'text'], text)}
                  fields={fields}
                />
              </View>
            </ExitRow>
          )}
          <FindingLines findings={findings} />
        </View>
      </View>
    </View>
  );
}

/** One way out: its letter or sign, what it is, where it leads, and a button that takes it away. */
function ExitRow({
  letter,
  children,
  remove,
  onRemove,
}: {
  letter: string;
  children: React.ReactNode;
  remove: string;
  onRemove: () => void;
}) {
  const { colors, touch } = useTheme();
  return (
    <View style={{ flexDirection: 'row', borderTopWidth: 1, borderStyle: 'dashed', borderColor: colors.line, minHeight: touch }}>
      <Words kind="code" style={{ width: 20, lineHeight: touch }}>
        {letter}
      </Words>
      <View
        style={{
          flex: 1,
          minWidth: 0,
          flexDirection: 'row',
          flexWrap: 'wrap',
          alignItems: 'center',
          justifyContent: 'space-between',
          columnGap: 10,
        }}
      >
        {children}
      </View>
      <Pressable
        role="button"
        aria-label={remove}
        onPress={onRemove}
        style={{ width: 44, height: touch, alignItems: 'center', justifyContent: 'center' }}
      >
        <Words aria-hidden color="quiet" style={{ fontSize: 18 }}>
          ×
        </Words>
      </Pressable>
    </View>
  );
}

function StepMenu({
  loop,
  step,
  edit,
  show,
  change,
}: {
  loop: Loop;
  step: Step;
  edit: StepLineProps['edit'];
  show: (id: string) => void;
  change: (path: (string | number)[], value: unknown) => void;
}) {
  const waits = waitingOf(step);
  const items: MenuItem[] = [
    ...(step.kind === 'say' && (step.choices?.length ?? 0) < 10
      ? [
          {
            key: 'choice',
            words: 'Add a choice',
            onChoose: () => edit((before) => addChoice(before, step.id, `Choice ${choiceLetter(step.choices?.length ?? 0)}`)),
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
      ? [{ key: 'otherwise', words: 'Add the exit “could not read it”', onChoose: () => change(['otherwise'], 'next') }]
      : []),
    ...(waits && !waits.noReply
      ? [{ key: 'noReply', words: 'Add the exit “no reply in 3 h”', onChoose: () => change(['noReply'], { after: '3h', to: 'end' }) }]
      : []),
    { key: 'up', words: 'Move up', more: 'Alt+↑', onChoose: () => (edit((before) => moveStep(before, step.id, -1)), show(step.id)) },
    { key: 'down', words: 'Move down', more: 'Alt+↓', onChoose: () => (edit((before) => moveStep(before, step.id, 1)), show(step.id)) },
    {
      key: 'copy',
      words: 'Duplicate',
      onChoose: () => {
        const made = duplicateStep(loop, step.id);
        edit(() => made.loop);
        show(made.stepId);
      },
    },
    { key: 'remove', words: 'Remove', tone: 'red', onChoose: () => edit((before) => removeStep(before, step.id)) },
  ];
  return (
    <View style={{ width: 44, alignItems: 'center', marginTop: -6 }}>
      <Menu label={`More for this ${step.kind}`} title={`This ${step.kind}`} items={items}>
        <Words aria-hidden color="quiet" style={{ fontSize: 20, textAlign: 'center' }}>
          ⋯
        </Words>
      </Menu>
    </View>
  );
}

/** What a step of a kind that is not edited here yet reads as; it comes in with files. */
function readWords(step: Step): string {
  if (step.kind === 'say' || step.kind === 'ask' || step.kind === 'set') return '';
  return kindOf(step).words(step);
}

/** What else a say or an ask does, in words; it comes in with files. */
function details(step: Step): string {
  const inOther = (variants: object | undefined) =>
    variants && Object.keys(variants).length > 0 ? [`also in ${Object.keys(variants).join(', ')}`] : [];
  if (step.kind === 'say')
    return [
      ...(step.media ? [`with the ${step.media.what} ${step.media.address}`] : []),
      ...(step.link ? [`with the link “${step.link.label}” to ${step.link.address}`] : []),
      ...(step.typing ? [`after ${step.typing} s of typing`] : []),
      ...inOther(step.variants),
    ].join(', ');
  if (step.kind !== 'ask') return '';
  return [
    ...(step.min !== undefined || step.max !== undefined ? [`from ${step.min ?? 'any'} to ${step.max ?? 'any'}`] : []),
    ...(step.days && step.days !== 'ahead' ? [step.days === 'past' ? 'in the past' : 'past or ahead'] : []),
    ...(step.known === 'skip' ? ['not asked when known'] : step.known === 'confirm' ? ['confirmed when known'] : []),
    ...(step.skip ? ['may be skipped'] : []),
    ...(step.gather ? [`gathered for ${durationWords(step.gather)}`] : []),
    ...inOther(step.variants),
  ].join(', ');
}

/** What can be chosen or answered, in its order. */
function labelled(step: Step): { id: string; label: string; to?: string }[] {
  return (step.kind === 'say' ? step.choices : step.kind === 'ask' ? step.options : undefined) ?? [];
}

function removed<T>(list: T[], index: number): T[] | undefined {
  const rest = list.filter((_, at) => at !== index);
  return rest.length > 0 ? rest : undefined;
}
