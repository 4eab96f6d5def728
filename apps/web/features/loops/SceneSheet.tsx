import { memo, useState, type ReactNode } from 'react';
import { Pressable, View } from 'react-native';
import { onWeb } from '../../ui/onWeb';
import type { LoopSurroundings } from '@dart-loop/contract';
import type { Finding, Scene } from '@dart-loop/core';
import { whenHovered } from '../../ui/hover';
import { Dialog, Menu } from '../../ui/Menu';
import { ActionButton, QuietButton } from '../../ui/press';
import { Sheet } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { DropPlace, Handle } from './dragging';
import { EditableText } from './EditableText';
import type { StepActions } from './stepActions';
import { StepLine } from './StepLine';
import { FindingLines } from './Findings';
import type { SceneName } from './TargetMenu';

export interface SceneActions extends StepActions {
  renameScene(sceneId: string, name: string): void;
  actOnScene(
    sceneId: string,
    what: 'up' | 'down' | 'add after' | 'copy' | 'cut' | 'rehearse' | 'remove',
  ): void;
  openAdder(at: { sceneId: string; index: number }): void;
}

export interface SceneSheetProps {
  scene: Scene;
  index: number;
  last: boolean;
  /** How many exits lead here. */
  leading: number;
  scenes: readonly SceneName[];
  from: string;
  reached: Record<string, number> | null;
  findings: readonly Finding[];
  known: LoopSurroundings | undefined;
  actions: SceneActions;
  chosen: ReadonlySet<string>;
  others: Readonly<Record<string, string>>;
  /** Where a step is being added, if it is in this scene, and what is shown there. */
  adder: { index: number; shown: ReactNode } | null;
}

const NONE: readonly Finding[] = [];

/** A scene: its number and name, where people come from, and its steps, line by line. */
export const SceneSheet = memo(function SceneSheet({
  scene,
  index,
  last,
  leading,
  scenes,
  from,
  reached,
  findings,
  known,
  actions,
  chosen,
  others,
  adder,
}: SceneSheetProps) {
  const { colors } = useTheme();
  const [asking, setAsking] = useState(false);
  const own = findings.filter((finding) => finding.stepId === null);
  const of = (stepId: string) => {
    const found = findings.filter((finding) => finding.stepId === stepId);
    return found.length > 0 ? found : NONE;
  };
  const act = (what: Parameters<SceneActions['actOnScene']>[1]) => () => actions.actOnScene(scene.id, what);
  return (
    <View
      role="region"
      aria-label={`Scene ${index + 1}, ${scene.name}`}
      {...onWeb({ dataSet: { scene: scene.id }, nativeID: `scene-${scene.id}` })}
    >
      <Sheet>
        <DropPlace what={{ scene: scene.id }}>
          <View
            style={{
              flexDirection: 'row',
              alignItems: 'center',
              gap: 8,
              paddingLeft: 6,
              borderBottomWidth: 1,
              borderColor: colors.line,
              minHeight: 52,
            }}
          >
            <Handle what={{ scene: scene.id }} label={`Drag the scene ${scene.name}`} />
            <Words kind="code">{String(index + 1)}</Words>
            <View style={{ flex: 1, minWidth: 0 }}>
              <EditableText
                multiline={false}
                value={scene.name}
                label="Scene"
                placeholder="Name the scene, such as “Pick a time”"
                onChange={(name) => actions.renameScene(scene.id, name)}
              >
                <Words kind="heading">{scene.name}</Words>
              </EditableText>
            </View>
            <Words kind="small" style={{ flexShrink: 1, textAlign: 'right' }}>
              {from}
            </Words>
            <Menu
              label={`More for the scene ${scene.name}`}
              title={scene.name}
              items={[
                { key: 'rehearse', words: 'Rehearse from here', onChoose: act('rehearse') },
                { key: 'up', words: 'Move up', disabled: index === 0, onChoose: act('up') },
                { key: 'down', words: 'Move down', disabled: last, onChoose: act('down') },
                { key: 'add', words: 'Add a scene after it', onChoose: act('add after') },
                { key: 'copy', words: 'Copy scene', onChoose: act('copy') },
                { key: 'cut', words: 'Cut scene', onChoose: act('cut') },
                {
                  key: 'remove',
                  words: 'Remove',
                  tone: 'red',
                  onChoose: () => (leading > 0 || scene.steps.length > 0 ? setAsking(true) : act('remove')()),
                },
              ]}
            >
              <Words aria-hidden color="quiet" style={{ fontSize: 20, textAlign: 'center', width: 44 }}>
                ⋯
              </Words>
            </Menu>
          </View>
        </DropPlace>
        <View style={{ paddingVertical: 4 }}>
          {scene.steps.map((step, at) => (
            <View key={step.id}>
              {adder?.index === at ? (
                adder.shown
              ) : (
                <InsertBar onPress={() => actions.openAdder({ sceneId: scene.id, index: at })} />
              )}
              <DropPlace what={{ step: step.id }}>
                <StepLine
                  step={step}
                  scenes={scenes}
                  count={reached ? (reached[step.id] ?? 0) : null}
                  findings={of(step.id)}
                  known={known}
                  actions={actions}
                  chosen={chosen.has(step.id)}
                  others={others[step.id]}
                  handle={<Handle what={{ step: step.id }} label={`Drag this ${step.kind}`} />}
                />
              </DropPlace>
            </View>
          ))}
          <DropPlace what={{ end: scene.id }} />
          <View style={{ paddingHorizontal: 14 }}>
            <FindingLines findings={own} actions={actions} />
          </View>
          {adder?.index === scene.steps.length ? (
            adder.shown
          ) : (
            <View style={{ alignItems: 'center' }}>
              <Pressable
                role="button"
                aria-label={`Add a step to ${scene.name}`}
                onPress={() => actions.openAdder({ sceneId: scene.id, index: scene.steps.length })}
                {...onWeb({ dataSet: { add: scene.id } })}
                style={whenHovered((hovered) => ({
                  minHeight: 44,
                  justifyContent: 'center',
                  borderRadius: 6,
                  backgroundColor: hovered ? colors.inset : undefined,
                }))}
              >
                <Words color="quiet" style={{ paddingHorizontal: 24 }}>
                  + add a step
                </Words>
              </Pressable>
            </View>
          )}
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
                act('remove')();
              }}
            />
            <QuietButton title="Cancel" onPress={() => setAsking(false)} />
          </View>
        </View>
      </Dialog>
    </View>
  );
});

/**
 * A thin place between two lines where a step can be put by pointer; by key it is `a`, by touch the step's
 * menu.
 */
function InsertBar({ onPress }: { onPress: () => void }) {
  const { colors } = useTheme();
  return (
    <Pressable
      aria-hidden
      tabIndex={-1}
      onPress={onPress}
      style={whenHovered((hovered) => ({
        height: 10,
        marginVertical: -3,
        marginHorizontal: 14,
        zIndex: 1,
        justifyContent: 'center',
        opacity: hovered ? 1 : 0,
      }))}
    >
      <View style={{ height: 2, backgroundColor: colors.teal }} />
    </Pressable>
  );
}
