import { useCallback, useEffect, useMemo, useRef } from 'react';
import { View } from 'react-native';
import type { LoopPage, LoopSurroundings } from '@dart-loop/contract';
import type { Finding, Loop } from '@dart-loop/core';
import { exitsTo } from '@dart-loop/core/loops/edit/edits';
import { scenesBefore } from '@dart-loop/core/loops/model/loop';
import { QuietButton } from '../../ui/press';
import { Notice } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { Adder } from './Adder';
import { Cues } from './Cues';
import { Dragging, type Dragged } from './dragging';
import { MergeNames, useMergeNames } from './merging';
import { SceneSheet, type SceneActions } from './SceneSheet';
import type { ScriptEdits } from './useScriptEdits';
import { sameJson } from '@dart-loop/core/sameJson';

const NONE: readonly Finding[] = [];

/** The script: cues, then scene after scene, as the conversation it will be. */
export function Script({
  loop,
  page,
  known,
  findings,
  actions,
  edits,
  others,
}: {
  loop: Loop;
  page: LoopPage;
  known: LoopSurroundings | undefined;
  findings: readonly Finding[];
  actions: SceneActions;
  edits: ScriptEdits;
  others: Readonly<Record<string, string>>;
}) {
  const reached = page.live ? page.reached : null;
  const names = loop.scenes.map(({ id, name }) => `${id}\u0000${name}`).join('\u0001');
  // Only names and order matter to the lines; they are drawn again when these change, not with every letter
  // typed.
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const scenes = useMemo(() => loop.scenes.map(({ id, name }) => ({ id, name })), [names]);
  const before = useMemo(() => scenesBefore(loop), [loop]);
  const byScene = useStableGroups(findings);
  const { chosen, adder } = edits;
  const mergeNames = useMergeNames(loop, page);
  const drop = useCallback((what: Dragged, onto: Dragged) => edits.drop(what, onto), [edits]);
  const shownAdder = adder && (
    <Adder
      kept={page.id}
      loop={loop}
      at={adder}
      onAdd={(written) => edits.add(adder, written)}
      onClose={edits.closeAdder}
    />
  );
  return (
    <MergeNames.Provider value={mergeNames}>
      <Dragging onDrop={drop}>
        <View style={{ gap: 14 }}>
          <Cues loop={loop} known={known} findings={findings} actions={actions} />
          {loop.scenes.map((scene, index) => {
            const from = before.get(scene.id) ?? [];
            const sources = [...(index === 0 ? ['every cue'] : []), ...from.map(String)];
            return (
              <SceneSheet
                key={scene.id}
                scene={scene}
                index={index}
                last={index === loop.scenes.length - 1}
                leading={exitsTo(loop, scene.id)}
                scenes={scenes}
                from={sources.length > 0 ? `from ${sources.join(', ')}` : 'nothing leads here'}
                reached={reached}
                findings={byScene.get(scene.id) ?? NONE}
                known={known}
                actions={actions}
                chosen={chosen}
                others={others}
                adder={adder?.sceneId === scene.id ? { index: adder.index, shown: shownAdder } : null}
              />
            );
          })}
          <View style={{ alignSelf: 'flex-start', flexDirection: 'row', gap: 8 }}>
            <QuietButton outlined title="Add a scene" onPress={edits.addScene} />
          </View>
        </View>
        {edits.said && (
          <View style={{ marginTop: 8 }}>
            <Notice tone="quiet">{edits.said}</Notice>
          </View>
        )}
      </Dragging>
    </MergeNames.Provider>
  );
}

/** What can be done with several steps that are chosen; stays in sight at the foot of the script. */
export function ChosenBar({ edits }: { edits: ScriptEdits }) {
  const { colors } = useTheme();
  const count = edits.chosen.size;
  if (count === 0) return null;
  return (
    <View
      role="toolbar"
      aria-label="Selected steps"
      style={{
        flexDirection: 'row',
        flexWrap: 'wrap',
        alignItems: 'center',
        columnGap: 4,
        paddingHorizontal: 12,
        paddingVertical: 4,
        borderTopWidth: 1,
        borderColor: colors.line,
        backgroundColor: colors.inset,
      }}
    >
      <Words kind="smallStrong">{count === 1 ? '1 step chosen' : `${count} steps chosen`}</Words>
      <QuietButton title="Up" label="Move selected up" onPress={() => edits.move(-1)} />
      <QuietButton title="Down" label="Move selected down" onPress={() => edits.move(1)} />
      <QuietButton title="Copy" onPress={() => void edits.copy()} />
      <QuietButton title="Cut" onPress={() => void edits.cut()} />
      <QuietButton title="Remove" tone="red" label="Remove selected" onPress={edits.remove} />
      <QuietButton title="Done" label="Clear selection" tone="teal" onPress={edits.chooseNone} />
    </View>
  );
}

/**
 * Findings by scene; a group that says the same as before is the same list, so that its scene is not drawn
 * again.
 */
function useStableGroups(findings: readonly Finding[]): ReadonlyMap<string, readonly Finding[]> {
  const last = useRef(new Map<string, readonly Finding[]>());
  const groups = useMemo(() => {
    const made = new Map<string, Finding[]>();
    for (const finding of findings)
      if (finding.sceneId !== null)
        made.set(finding.sceneId, [...(made.get(finding.sceneId) ?? []), finding]);
    const stable = new Map<string, readonly Finding[]>();
    for (const [id, own] of made) {
      const before = last.current.get(id);
      stable.set(id, before && sameJson(before, own) ? before : own);
    }
    return stable;
  }, [findings]);
  useEffect(() => void (last.current = new Map(groups)), [groups]);
  return groups;
}
