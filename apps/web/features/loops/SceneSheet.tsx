import { useState } from 'react';
import { View } from 'react-native';
import type { Loop, Finding, Scene } from '@dart-loop/core';
import { addScene, addStep, exitsTo, moveScene, removeScene, renameScene, type NewStep } from '@dart-loop/core/edit/edits';
import { Dialog, Menu } from '../../ui/Menu';
import { ActionButton, QuietButton } from '../../ui/press';
import { Sheet } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { EditableText, type MergeField } from './EditableText';
import { StepLine } from './StepLine';
import { FindingLines } from './Findings';

/** The kinds of steps one can add, in words. */
export const NEW_STEPS: { key: string; words: string; more: string; step: NewStep }[] = [
  { key: 'say', words: 'Say', more: 'a text', step: { kind: 'say', text: 'Write the text here' } },
  {
    key: 'choices',
    words: 'Say with choices',
    more: 'a text, and what the person can tap',
    step: {
      kind: 'say',
      text: 'Write the text here',
      choices: [
        { id: 'yes', label: 'Yes', to: 'next' },
        { id: 'no', label: 'No', to: 'end' },
      ],
      noReply: { after: '3h', to: 'end' },
    },
  },
  {
    key: 'email',
    words: 'Ask for an email address',
    more: 'read and stored as one',
    step: {
      kind: 'ask',
      text: 'What is your email address?',
      reply: 'email',
      field: 'email',
      retry: { times: 2, text: 'That does not look like a whole email address.' },
      otherwise: 'next',
      noReply: { after: '1d', to: 'end' },
    },
  },
  {
    key: 'phone',
    words: 'Ask for a phone number',
    more: 'stored with its country code',
    step: {
      kind: 'ask',
      text: 'What is your phone number?',
      reply: 'phone',
      field: 'phone',
      retry: { times: 2, text: 'That is not a whole phone number.' },
      otherwise: 'next',
      noReply: { after: '1d', to: 'end' },
    },
  },
  {
    key: 'number',
    words: 'Ask for a number',
    more: '“two”, “2”, “1,250.50”',
    step: {
      kind: 'ask',
      text: 'How many?',
      reply: 'number',
      field: 'count',
      retry: { times: 2, text: 'A number is enough, such as 2.' },
      otherwise: 'next',
      noReply: { after: '1d', to: 'end' },
    },
  },
  {
    key: 'yesno',
    words: 'Ask yes or no',
    more: 'with an exit for each',
    step: {
      kind: 'ask',
      text: 'Yes or no?',
      reply: 'yes/no',
      field: 'answer',
      retry: { times: 1, text: 'Just yes or no, please.' },
      otherwise: 'next',
      noReply: { after: '1d', to: 'end' },
    },
  },
  {
    key: 'text',
    words: 'Ask anything',
    more: 'stored as it is written',
    step: { kind: 'ask', text: 'What would you like to tell us?', reply: 'text', field: 'message', noReply: { after: '1d', to: 'end' } },
  },
  { key: 'set', words: 'Set', more: 'a field or a tag, silently', step: { kind: 'set', changes: [{ do: 'add tag', tag: 'new tag' }] } },
  { key: 'go', words: 'Go', more: 'to a scene', step: { kind: 'go', to: 'end' } },
  { key: 'end', words: 'End', more: 'the run ends here', step: { kind: 'end' } },
];

export interface SceneSheetProps {
  loop: Loop;
  scene: Scene;
  index: number;
  from: number[];
  reached: Record<string, number> | null;
  findings: Finding[];
  fields: MergeField[];
  edit: (change: (loop: Loop) => Loop) => void;
  show: (stepId: string) => void;
}

export function SceneSheet({ loop, scene, index, from, reached, findings, fields, edit, show }: SceneSheetProps) {
  const { colors } = useTheme();
  const [asking, setAsking] = useState(false);
  const leading = exitsTo(loop, scene.id);
  const add = (step: NewStep, at?: number) => {
    const made = addStep(loop, scene.id, structuredClone(step), at);
    edit(() => made.loop);
    show(made.stepId);
  };
  const sources = [...(index === 0 ? ['every cue'] : []), ...from.map(String)];
  const own = findings.filter((finding) => finding.sceneId === scene.id && finding.stepId === null);
  return (
    <View
      role="region"
      aria-label={`Scene ${index + 1}, ${scene.name}`}
      {...({ dataSet: { scene: scene.id }, nativeID: `scene-${scene.id}` } as object)}
    >
      <Sheet>
        <View
          style={{
            flexDirection: 'row',
            alignItems: 'center',
            gap: 10,
            paddingLeft: 14,
            borderBottomWidth: 1,
            borderColor: colors.line,
            minHeight: 52,
          }}
        >
          <Words kind="code">{String(index + 1)}</Words>
          <View style={{ flex: 1, minWidth: 0 }}>
            <EditableText
              multiline={false}
              value={scene.name}
              label="Scene"
              placeholder="Name the scene"
              onChange={(name) => edit((before) => renameScene(before, scene.id, name))}
            >
              <Words kind="heading">{scene.name}</Words>
            </EditableText>
          </View>
          <Words kind="small">{sources.length > 0 ? `from ${sources.join(', ')}` : 'nothing leads here'}</Words>
          <Menu
            label={`More for the scene ${scene.name}`}
            title={scene.name}
            items={[
              { key: 'up', words: 'Move up', disabled: index === 0, onChoose: () => edit((before) => moveScene(before, scene.id, -1)) },
              {
                key: 'down',
                words: 'Move down',
                disabled: index === loop.scenes.length - 1,
                onChoose: () => edit((before) => moveScene(before, scene.id, 1)),
              },
              {
                key: 'add',
                words: 'Add a scene after it',
                onChoose: () => edit((before) => addScene(before, `Scene ${before.scenes.length + 1}`, index + 1).loop),
              },
              {
                key: 'remove',
                words: 'Remove',
                tone: 'red',
                onChoose: () => (leading > 0 || scene.steps.length > 0 ? setAsking(true) : edit((before) => removeScene(before, scene.id))),
              },
            ]}
          >
            <Words aria-hidden color="quiet" style={{ fontSize: 20, textAlign: 'center' }}>
              ⋯
            </Words>
          </Menu>
        </View>
        <View style={{ paddingVertical: 6 }}>
          {scene.steps.map((step) => (
            <StepLine
              key={step.id}
              loop={loop}
              step={step}
              count={reached ? (reached[step.id] ?? 0) : null}
              findings={findings.filter((finding) => finding.stepId === step.id)}
              fields={fields}
              edit={edit}
              show={show}
            />
          ))}
          <View style={{ paddingHorizontal: 14 }}>
            <FindingLines findings={own} />
          </View>
          <View style={{ alignItems: 'center' }} {...({ dataSet: { add: scene.id } } as object)}>
            <Menu
              label={`Add a step to ${scene.name}`}
              title="Add a step"
              items={NEW_STEPS.map((each) => ({ key: each.key, words: each.words, more: each.more, onChoose: () => add(each.step) }))}
            >
              <Words color="quiet" style={{ paddingHorizontal: 24 }}>
                + add a step
              </Words>
            </Menu>
          </View>
        </View>
      </Sheet>
      <Dialog title={`Remove ${scene.name}?`} open={asking} onClose={() => setAsking(false)}>
        <View style={{ padding: 12, gap: 12 }}>
          <Words>{`It has ${scene.steps.length === 1 ? '1 step' : `${scene.steps.length} steps`}${leading > 0 ? `, and ${leading === 1 ? '1 exit leads' : `${leading} exits lead`} to it; they will have to be pointed elsewhere before you can publish` : ''}. It can be undone.`}</Words>
          <View style={{ flexDirection: 'row', gap: 8 }}>
            <ActionButton
              title={`Remove ${scene.name}`}
              onPress={() => {
                setAsking(false);
                edit((before) => removeScene(before, scene.id));
              }}
            />
            <QuietButton title="Keep it" onPress={() => setAsking(false)} />
          </View>
        </View>
      </Dialog>
    </View>
  );
}
