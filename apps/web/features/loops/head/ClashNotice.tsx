import { View } from 'react-native';
import type { Loop } from '@dart-loop/core';
import { withValueAt } from '@dart-loop/core/loops/edit/edits';
import type { Clash } from '@dart-loop/core/loops/edit/mergeDrafts';
import { QuietButton } from '../../../ui/press';
import { Notice } from '../../../ui/parts';
import { Words } from '../../../ui/Words';
import type { CameIn, Draft } from '../useDraft';

/** What somebody else has changed meanwhile; where both have, ours stands and theirs is one tap away. */
export function ClashNotice({
  came,
  loop,
  edit,
  noted,
}: {
  came: CameIn;
  loop: Loop;
  edit: Draft['edit'];
  noted: () => void;
}) {
  return (
    <Notice tone="quiet">
      <Words kind="small" color="ink">
        {`${came.by} has just changed this draft; it is in here too.${came.clashes.length > 0 ? ' Where both have changed the same, yours stands:' : ''}`}
      </Words>
      {came.clashes.map((clash) => (
        <View
          key={`${clash.stepId ?? clash.sceneId ?? clash.cueId} ${clash.path.join('.')}`}
          style={{ gap: 2 }}
        >
          <Words kind="small">{`${whereWords(loop, clash)}: ${came.by} wrote ${wordsOf(clash.theirs)}`}</Words>
          <View style={{ alignSelf: 'flex-start' }}>
            <QuietButton
              outlined
              title="Use their version"
              onPress={() => {
                edit((before) => takeTheirs(before, clash));
                noted();
              }}
            />
          </View>
        </View>
      ))}
      <View style={{ alignSelf: 'flex-start' }}>
        <QuietButton title={came.clashes.length > 0 ? 'Keep mine' : 'Noted'} tone="quiet" onPress={noted} />
      </View>
    </Notice>
  );
}

const wordsOf = (value: unknown) =>
  typeof value === 'string'
    ? `“${value.length > 120 ? `${value.slice(0, 119)}…` : value}”`
    : value === undefined
      ? 'nothing there'
      : 'something else';

function whereWords(loop: Loop, { stepId, sceneId }: Clash): string {
  const index = loop.scenes.findIndex(
    (scene) => scene.id === sceneId || scene.steps.some((step) => step.id === stepId),
  );
  return index < 0 ? 'In the loop' : `In scene ${index + 1} (${loop.scenes[index]!.name})`;
}

/**
 * Puts what the other has written in the place of ours. Entries of lists are named by their ids in a clash's
 * path.
 */
function takeTheirs(loop: Loop, { stepId, sceneId, cueId, path, theirs }: Clash): Loop {
  const put = <T,>(thing: T): T => withValueAt(thing, placesOf(thing, path), theirs);
  if (stepId)
    return {
      ...loop,
      scenes: loop.scenes.map((scene) => ({
        ...scene,
        steps: scene.steps.map((step) => (step.id === stepId ? put(step) : step)),
      })),
    };
  if (sceneId)
    return { ...loop, scenes: loop.scenes.map((scene) => (scene.id === sceneId ? put(scene) : scene)) };
  if (cueId) return { ...loop, cues: loop.cues.map((cue) => (cue.id === cueId ? put(cue) : cue)) };
  return put(loop);
}

function placesOf(thing: unknown, path: string[]): (string | number)[] {
  let here = thing;
  return path.map((key) => {
    const at = Array.isArray(here) ? here.findIndex((each: { id?: string }) => each.id === key) : key;
    here = (here as Record<string | number, unknown>)[at];
    return at;
  });
}
