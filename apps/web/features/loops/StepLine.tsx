import { memo, useState, type ReactNode } from 'react';
import { Pressable, View } from 'react-native';
import { onWeb } from '../../ui/onWeb';
import type { LoopSurroundings } from '@dart-loop/contract';
import type { Finding, Step } from '@dart-loop/core';
import type { Exit } from '@dart-loop/core/loops/model/basics';
import { addScene, editStep, setTarget, withValueAt } from '@dart-loop/core/loops/edit/edits';
import { durationWords } from '@dart-loop/core/loops/model/basics';
import { findStep } from '@dart-loop/core/loops/model/loop';
import { exitsOf, waitingOf } from '@dart-loop/core/engine/steps/index';
import { READERS } from '@dart-loop/core/language/replies/index';
import { choiceLetter } from '@dart-loop/core/language/choice';
import { fieldKey } from '@dart-loop/core/language/slug';
import { whenHovered } from '../../ui/hover';
import { Menu } from '../../ui/Menu';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { EditableText } from './EditableText';
import { ExitRow } from './ExitRow';
import { StepForm } from './forms/StepForm';
import { MergedText, mergedWords } from './MergedText';
import { SetLines } from './SetLines';
import type { StepActions } from './stepActions';
import { StepMenu } from './StepMenu';
import { TargetMenu, type SceneName } from './TargetMenu';
import { FindingLines, FindingMark } from './Findings';
import { TIMES, WaitingRows } from './WaitingRows';
import { details, readWords, labelled, removed } from './stepDetails';

export interface StepLineProps {
  step: Step;
  scenes: readonly SceneName[];
  /** How many people have reached the step; null when the loop is not live. */
  count: number | null;
  findings: readonly Finding[];
  known: LoopSurroundings | undefined;
  actions: StepActions;
  chosen?: boolean;
  /** Who else is at this step just now. */
  others?: string;
  /** Stands in the margin: what it is dragged by. */
  handle?: ReactNode;
}

/** One line of a scene: its count in the margin, its verb, its text, and the ways out under it. */
export const StepLine = memo(function StepLine({
  step,
  scenes,
  count,
  findings,
  known,
  actions,
  chosen = false,
  others,
  handle,
}: StepLineProps) {
  const { colors, wide, touch } = useTheme();
  const [form, setForm] = useState(false);
  const { edit } = actions;
  const change = (path: (string | number)[], value: unknown) =>
    edit(
      (before) => editStep(before, step.id, (each) => withValueAt(each, path, value)),
      `${step.id} ${path.join('.')}`,
    );
  const verb = (
    <Words kind="verb" style={{ width: wide ? 66 : undefined, lineHeight: wide ? 24 : 18 }}>
      {step.kind}
    </Words>
  );
  const exits = exitsOf(step);
  const hasForm = step.kind !== 'set' && step.kind !== 'end';
  // Its text stands above, and the rest is about it.
  const isOwnText = step.kind === 'book' || step.kind === 'answer';
  const openForm = () => setForm(true);
  const lead = (path: (string | number)[]) => ({
    onChoose: (to: string) => edit((before) => setTarget(before, step.id, path, to)),
    onNewScene: () =>
      edit((before) => {
        const here = findStep(before, step.id);
        const made = addScene(
          before,
          `Scene ${before.scenes.length + 1}`,
          here ? here.sceneIndex + 1 : undefined,
        );
        return setTarget(made.loop, step.id, path, made.sceneId);
      }),
    onGo: actions.goTo,
  });
  return (
    <View
      role="group"
      aria-label={`${step.kind}${'text' in step && step.text ? `: ${step.text}` : ''}${chosen ? ', chosen' : ''}`}
      tabIndex={0}
      {...onWeb({ dataSet: { step: step.id } })}
      style={{
        flexDirection: 'row',
        paddingHorizontal: wide ? 14 : 8,
        paddingVertical: 6,
        borderRadius: 6,
        backgroundColor: chosen ? colors.inset : undefined,
      }}
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
          <Words
            kind="code"
            style={{ lineHeight: 24 }}
            {...onWeb({ title: `${count} people reached this step` })}
          >
            {String(count)}
          </Words>
        )}
        <FindingMark findings={findings} />
        {handle}
      </View>
      <View style={{ flex: 1, minWidth: 0, flexDirection: wide ? 'row' : 'column' }}>
        {verb}
        <View style={{ flex: wide ? 1 : undefined, minWidth: 0 }}>
          <View style={{ flexDirection: 'row', gap: 4 }}>
            <View style={{ flex: 1, minWidth: 0 }}>
              {step.kind === 'answer' && (
                <EditableText
                  handle={step.id}
                  value={step.text ?? ''}
                  label="Text"
                  placeholder="What may they ask? (said first; may stay empty)"
                  onChange={(text) => change(['text'], text.trim() || undefined)}
                  merges
                />
              )}
              {(step.kind === 'say' || step.kind === 'ask' || step.kind === 'book') && (
                <EditableText
                  handle={step.id}
                  value={step.text}
                  label={step.kind === 'say' ? 'Text' : 'Question'}
                  placeholder={step.kind === 'say' ? 'What do you say?' : 'What do you ask?'}
                  onChange={(text) => change(['text'], text)}
                  merges
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
                  {(step.also ?? []).map(({ field, reply }) => (
                    <Words
                      key={field}
                      kind="small"
                      style={{ flexBasis: '100%' }}
                    >{`and ${READERS[reply].words}, saved in ${field}`}</Words>
                  ))}
                  {details(step) !== '' && <Words kind="small">{details(step)}</Words>}
                </View>
              )}
              {step.kind === 'set' && <SetLines step={step} change={change} />}
              {step.kind === 'go' && step.to !== undefined && (
                <TargetMenu scenes={scenes} to={step.to} of="go" {...lead(['to'])} />
              )}
              {readWords(step) !== '' && (
                <Pressable
                  role="button"
                  aria-label={`${step.kind}: ${isOwnText ? readWords(step) : mergedWords(readWords(step))}. Change`}
                  disabled={!hasForm}
                  onPress={openForm}
                  {...onWeb({ dataSet: { edit: step.id } })}
                  style={whenHovered((hovered) => ({
                    minHeight: 24,
                    borderRadius: 4,
                    backgroundColor: hovered && hasForm ? colors.inset : undefined,
                  }))}
                >
                  {isOwnText ? (
                    <Words kind="small">{readWords(step)}</Words>
                  ) : (
                    <MergedText text={readWords(step)} />
                  )}
                </Pressable>
              )}
              {step.kind === 'say' && details(step) !== '' && <Words kind="small">{details(step)}</Words>}
              {others !== undefined && <Words kind="small" color="plum">{`■ ${others}`}</Words>}
            </View>
            <View style={{ alignSelf: 'flex-start', marginTop: wide ? -6 : -10 }}>
              <StepMenu step={step} actions={actions} change={change} openForm={hasForm ? openForm : null} />
            </View>
          </View>
          {labelled(step).map(({ id, label, to }, index, all) => {
            const [list, what] =
              step.kind === 'ask' ? (['options', 'option'] as const) : (['choices', 'choice'] as const);
            return (
              <ExitRow
                key={id}
                letter={choiceLetter(index)}
                remove={`Remove the ${what} ${label}`}
                onRemove={() => change([list], removed(all, index))}
              >
                <View
                  style={{
                    flexGrow: 1,
                    flexShrink: 1,
                    flexBasis: 0,
                    minWidth: 100,
                    minHeight: touch,
                    justifyContent: 'center',
                  }}
                >
                  <EditableText
                    multiline={false}
                    value={label}
                    label={`${what === 'choice' ? 'Choice' : 'Option'} ${choiceLetter(index)}`}
                    placeholder={what === 'choice' ? 'What can they choose?' : 'What can they answer?'}
                    onChange={(next) => change([list, index, 'label'], next)}
                  />
                </View>
                {(step.kind === 'say' || (step.kind === 'ask' && step.reply === 'one of')) && (
                  <TargetMenu scenes={scenes} to={to ?? 'next'} of={label} {...lead([list, index, 'to'])} />
                )}
              </ExitRow>
            );
          })}
          <WaitingRows step={step} change={change} />
          {exits
            .filter((exit) => exit.kind !== 'choice' && exit.kind !== 'go' && exit.path[0] !== 'options')
            .map((exit) => (
              <ExitRow
                key={exit.kind + exit.words}
                letter="·"
                remove={`Remove the exit ${exit.words}`}
                onRemove={() => change(takenWith(exit), undefined)}
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
                  <Words color="quiet" style={{ paddingVertical: (touch - 24) / 2 }}>
                    {exit.words}
                  </Words>
                )}
                <TargetMenu scenes={scenes} to={exit.to} of={exit.words} {...lead(exit.path)} />
              </ExitRow>
            ))}
          <FindingLines findings={findings} actions={actions} />
        </View>
      </View>
      {form && (
        <StepForm
          step={step}
          scenes={scenes as SceneName[]}
          known={known}
          onChange={(next) => edit((before) => editStep(before, step.id, () => next), `${step.id} form`)}
          onClose={() => setForm(false)}
        />
      )}
    </View>
  );
});

/** What of a step goes with an exit: its arm, or what belongs to it; what is said meanwhile stays. */
function takenWith({ kind, path }: Exit): (string | number)[] {
  if (path[0] === 'arms') return path.slice(0, -1);
  return kind === 'not known' ? path : path.slice(0, 1);
}
