import { memo, useState } from 'react';
import { Pressable, View } from 'react-native';
import type { LoopSurroundings } from '@dart-loop/contract';
import type { Cue, Finding, Loop } from '@dart-loop/core';
import { freshId } from '@dart-loop/core/loops/model/loop';
import { cueWords } from '@dart-loop/core/engine/cues/index';
import { CHANNELS } from '@dart-loop/core/channels/index';
import { whenHovered } from '../../ui/hover';
import { Menu } from '../../ui/Menu';
import { QuietButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { FindingLines, FindingMark } from './Findings';
import { CueForm } from './forms/CueForm';
import type { StepActions } from './StepLine';

/** A cue of each kind as it is before anybody has written in it, in the order in which they are offered. */
const NEW_CUES: { words: string; more: string; cue: (name: string) => Omit<Cue, 'id'> }[] = [
  {
    words: 'A keyword',
    more: 'somebody writes a word',
    cue: () => ({ kind: 'keyword', words: ['HELLO'], match: 'exactly' }),
  },
  { words: 'A link or QR code', more: 'somebody comes by it', cue: (name) => ({ kind: 'link', ref: name }) },
  {
    words: 'A comment',
    more: 'under a post of the client’s',
    cue: () => ({ kind: 'comment', posts: 'any' }) as Omit<Cue, 'id'>,
  },
  {
    words: 'An ad click',
    more: 'an ad opens the conversation',
    cue: (name) => ({ kind: 'ad click', ref: name }),
  },
  {
    words: 'A lead form',
    more: 'a form of an ad is submitted',
    cue: () => ({ kind: 'lead form', forms: ['form-id'] }),
  },
  {
    words: 'A menu tap or command',
    more: 'what stands in a line’s menus',
    cue: () => ({ kind: 'menu tap', item: 'start' }),
  },
  { words: 'The first message ever', more: 'whatever it says', cue: () => ({ kind: 'first message' }) },
  { words: 'Fallback', more: 'what nothing else has heard', cue: () => ({ kind: 'fallback' }) },
  {
    words: 'A tag',
    more: 'put on or taken off',
    cue: () => ({ kind: 'tag', tag: 'new tag', when: 'added' }),
  },
  {
    words: 'A list joined',
    more: 'somebody is on it now',
    cue: () => ({ kind: 'list joined', list: 'News' }),
  },
  {
    words: 'A field changed',
    more: 'to anything, or to one value',
    cue: () => ({ kind: 'field changed', field: 'email' }),
  },
  {
    words: 'A date',
    more: 'before, on or after the day in a field',
    cue: () => ({ kind: 'date', field: 'day', days: -1, at: '10:00' }),
  },
  { words: 'Silence', more: 'nothing heard for so long', cue: () => ({ kind: 'silence', after: '7d' }) },
  {
    words: 'An incoming webhook',
    more: 'another system calls',
    cue: (name) => ({ kind: 'incoming webhook', hook: name }),
  },
];

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
  const { colors, wide } = useTheme();
  const [open, setOpen] = useState<string | null>(null);
  const { edit } = actions;
  const change = (id: string, next: Cue | null) =>
    edit(
      (before) => ({ ...before, cues: before.cues.flatMap((cue) => (cue.id === id ? (next ?? []) : cue)) }),
      next ? `cue ${id}` : undefined,
    );
  const opened = loop.cues.find((cue) => cue.id === open);
  const add = (make: (typeof NEW_CUES)[number]['cue']) => {
    const name = freshId(loop.name, []).replace(/-+$/, '');
    const made = { ...make(name) } as Omit<Cue, 'id'>;
    const id = freshId(
      made.kind,
      loop.cues.map((cue) => cue.id),
    );
    edit((before) => ({ ...before, cues: [...before.cues, { id, ...made } as Cue] }));
    setTimeout(() => setOpen(id), 30);
  };
  return (
    <View role="region" aria-label="Cues" style={{ paddingVertical: 4 }}>
      {loop.cues.length === 0 && <Words color="ochre">◆ Nothing starts this loop yet.</Words>}
      {loop.cues.map((cue, index) => {
        const own = findings.filter((finding) => finding.cueId === cue.id);
        return (
          <View key={cue.id} {...({ dataSet: { cue: cue.id } } as object)}>
            <View style={{ flexDirection: 'row', alignItems: 'center', columnGap: 6, minHeight: 44 }}>
              <Words color="quiet">{index === 0 ? 'starts with' : 'or with'}</Words>
              <Pressable
                role="button"
                aria-label={`Cue: ${cueWords(cue)}. Change`}
                onPress={() => setOpen(cue.id)}
                style={whenHovered((hovered) => ({
                  flexShrink: 1,
                  minHeight: wide ? 36 : 44,
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
              <FindingMark findings={own} />
              <QuietButton
                title="×"
                label={`Remove the cue ${cueWords(cue)}`}
                tone="quiet"
                onPress={() => change(cue.id, null)}
              />
            </View>
            <FindingLines findings={own} actions={actions} />
          </View>
        );
      })}
      <View style={{ alignSelf: 'flex-start' }}>
        <Menu
          label="Add a cue"
          title="What starts the loop?"
          items={NEW_CUES.map(({ words, more, cue }) => ({
            key: words,
            words,
            more,
            onChoose: () => add(cue),
          }))}
        >
          <Words kind="strong" color="teal" style={{ fontSize: 15, paddingHorizontal: 6 }}>
            + cue
          </Words>
        </Menu>
      </View>
      {opened && (
        <CueForm
          key={opened.id}
          cue={opened}
          loop={loop}
          known={known}
          onChange={(next) => change(opened.id, next)}
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
    return line ? CHANNELS[line.channel].mark : key;
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
