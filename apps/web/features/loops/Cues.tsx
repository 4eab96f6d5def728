import { memo, useState } from 'react';
import { Pressable, View } from 'react-native';
import { onWeb } from '../../ui/onWeb';
import type { LoopSurroundings } from '@dart-loop/contract';
import type { Cue, Finding, Loop } from '@dart-loop/core';
import { freshId } from '@dart-loop/core/loops/model/loop';
import { cueWords } from '@dart-loop/core/engine/cues/index';
import { CHANNEL_NAMES } from '@dart-loop/core/channels/names';
import { whenHovered } from '../../ui/hover';
import { Menu } from '../../ui/Menu';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { FindingLines, FindingMark } from './Findings';
import { CUE_EDITORS } from './forms/cues';
import { CueForm } from './forms/cues/CueForm';
import type { StepActions } from './stepActions';

/** What starts the loop, in words. Each opens its form, with the answer to who else hears it. */
export const Cues = memo(function Cues({
  loop,
  known,
  findings,
  actions,
}: {
  loop: Loop;
  known: LoopSurroundings | undefined;
  findings: readonly Finding[];
  actions: StepActions;
}) {
  const { colors, touch } = useTheme();
  const [open, setOpen] = useState<string | null>(null);
  const { edit } = actions;
  const change = (id: string, next: Cue | null) =>
    edit(
      (before) => ({ ...before, cues: before.cues.flatMap((cue) => (cue.id === id ? (next ?? []) : cue)) }),
      next ? `cue ${id}` : undefined,
    );
  const of = (cue: Cue) => findings.filter((finding) => finding.cueId === cue.id);
  const opened = loop.cues.find((cue) => cue.id === open);
  const add = (fresh: (name: string) => Omit<Cue, 'id'>) => {
    const name = freshId(loop.name, []).replace(/-+$/, '');
    const made = fresh(name);
    const id = freshId(
      made.kind,
      loop.cues.map((cue) => cue.id),
    );
    edit((before) => ({ ...before, cues: [...before.cues, { id, ...made } as Cue] }));
    setTimeout(() => setOpen(id), 30);
  };
  return (
    <View role="region" aria-label="Cues">
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', columnGap: 6 }}>
        {loop.cues.length === 0 ? (
          <Words color="ochre">◆ Nothing starts this loop yet.</Words>
        ) : (
          <Words color="quiet">starts with</Words>
        )}
        {loop.cues.map((cue, index) => (
          <View
            key={cue.id}
            {...onWeb({ dataSet: { cue: cue.id } })}
            style={{ flexDirection: 'row', alignItems: 'center', columnGap: 6, flexShrink: 1 }}
          >
            {index > 0 && <Words color="quiet">or</Words>}
            <Pressable
              role="button"
              aria-label={`Cue: ${cueWords(cue)}. Change`}
              onPress={() => setOpen(cue.id)}
              style={whenHovered((hovered) => ({
                flexShrink: 1,
                minHeight: touch,
                justifyContent: 'center',
                borderRadius: 4,
                backgroundColor: hovered ? colors.inset : undefined,
              }))}
            >
              <Words>
                <Words kind="strong">{cueWords(cue)}</Words>
                {moreWords(cue, known) !== '' && <Words kind="small">{` ${moreWords(cue, known)}`}</Words>}
              </Words>
            </Pressable>
            <FindingMark findings={of(cue)} />
          </View>
        ))}
        <Menu
          label="Add a cue"
          title="What starts the loop?"
          items={Object.values(CUE_EDITORS).map(({ words, more, fresh }) => ({
            key: words,
            words,
            more,
            onChoose: () => add(fresh),
          }))}
        >
          <Words kind="strong" color="teal" style={{ fontSize: 15, paddingHorizontal: 6 }}>
            + cue
          </Words>
        </Menu>
      </View>
      {loop.cues.map((cue) => (
        <FindingLines key={cue.id} findings={of(cue)} actions={actions} />
      ))}
      {opened && (
        <CueForm
          key={opened.id}
          cue={opened}
          loop={loop}
          known={known}
          onChange={(next) => change(opened.id, next)}
          onRemove={() => {
            setOpen(null);
            change(opened.id, null);
          }}
          onClose={() => setOpen(null)}
        />
      )}
    </View>
  );
});

/** On which lines, and when it may fire again, where that is not always and everywhere. */
function moreWords(cue: Cue, known: LoopSurroundings | undefined): string {
  const on = (cue.lines ?? []).map((key) => {
    const line = known?.lines.find((each) => each.key === key);
    return line ? CHANNEL_NAMES[line.channel].mark : key;
  });
  const again =
    typeof cue.again === 'object'
      ? `once in ${cue.again.onceIn}`
      : cue.again && cue.again !== 'always'
        ? cue.again
        : null;
  const running =
    cue.whileRunning && cue.whileRunning !== 'start over' ? `while it runs: ${cue.whileRunning}` : null;
  return [
    ...(on.length > 0 ? [`on ${on.join(', ')}`] : []),
    ...[again, running].filter((each) => each !== null),
  ].join(', ');
}
