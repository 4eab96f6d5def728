import { useState } from 'react';
import { View } from 'react-native';
import type { LoopSurroundings } from '@dart-loop/contract';
import type { Loop } from '@dart-loop/core';
import { CHANNEL_NAMES } from '@dart-loop/core/channels/names';
import { Cue } from '@dart-loop/core/engine/cues/index';
import { readSentence } from '@dart-loop/core/loops/edit/typedCondition';
import { readDuration } from '@dart-loop/core/loops/edit/typedTime';
import { durationWords } from '@dart-loop/core/loops/model/basics';
import { conditionWords } from '@dart-loop/core/people/conditionWords';
import { Dialog } from '../../../../ui/Menu';
import { ActionButton, QuietButton } from '../../../../ui/press';
import { Refused } from '../../../../ui/parts';
import { Group, PickRow, TextRow, TickRow } from '../../../../ui/rows';
import { OwnPart } from './index';
import type { SetCue } from './cueEditor';

/**
 * One cue, in words: what it hears, on which lines, and when it may fire again. What is sound is written at
 * once.
 */
export function CueForm({
  cue,
  loop,
  known,
  onChange,
  onRemove,
  onClose,
}: {
  cue: Cue;
  loop: Loop;
  known: LoopSurroundings | undefined;
  onChange: (cue: Cue) => void;
  onRemove: () => void;
  onClose: () => void;
}) {
  const [written, setWritten] = useState<Cue>(cue);
  const [problem, setProblem] = useState<string | null>(null);
  const set: SetCue = (entries) => {
    const next = Object.fromEntries(
      Object.entries({ ...written, ...entries }).filter(([, value]) => value !== undefined),
    ) as Cue;
    setWritten(next);
    const read = Cue.safeParse(next);
    const reason = read.success ? null : read.error.issues[0]!.message;
    setProblem(
      reason && `${reason[0]!.toUpperCase()}${reason.slice(1)}. Until then the cue stays as it was.`,
    );
    if (read.success) onChange(read.data);
  };
  const lines = (known?.lines ?? []).filter(
    (line) => loop.lines.length === 0 || loop.lines.includes(line.key),
  );
  const again = typeof written.again === 'object' ? 'once in' : (written.again ?? 'always');
  return (
    <Dialog title="Cue" open onClose={onClose}>
      <View style={{ padding: 12, gap: 16 }}>
        <OwnPart cue={written} set={set} loop={loop} known={known} />
        <Refused problem={problem} />
        {lines.length > 1 && (
          <Group title="Lines">
            {lines.map((line) => {
              const on = !written.lines?.length || written.lines.includes(line.key);
              return (
                <TickRow
                  key={line.key}
                  label={`${line.name ?? line.key}, ${CHANNEL_NAMES[line.channel].name}`}
                  on={on}
                  onChange={(next) => {
                    const now = written.lines?.length ? written.lines : lines.map(({ key }) => key);
                    const after = next ? [...now, line.key] : now.filter((key) => key !== line.key);
                    // All of them is the same as none named; a cue without a line is none.
                    if (after.length > 0) set({ lines: after.length === lines.length ? undefined : after });
                  }}
                />
              );
            })}
          </Group>
        )}
        <TextRow
          label="Only for"
          placeholder="everybody"
          value={written.who ? conditionWords(written.who) : ''}
          hint="“in the segment Regulars”, “opted in on sms and town is Harwick”; nothing for everybody"
          read={(typed) => {
            const read = typed.trim() === '' ? null : readSentence(typed);
            return !read || read.ok ? null : `“${read.words}” cannot be read as something about a person.`;
          }}
          onChange={(typed) => {
            const read = readSentence(typed);
            set({ who: read.ok ? read.condition : undefined });
          }}
        />
        <PickRow
          label="Starting again for the same person"
          value={again}
          options={
            [
              ['always', 'always'],
              ['once', 'only once'],
              ['once in', 'once in so long'],
              ['not while running', 'not while running'],
              ['after finishing', 'after finishing'],
            ] as const
          }
          onChange={(next) =>
            set({ again: next === 'always' ? undefined : next === 'once in' ? { onceIn: '7d' } : next })
          }
        />
        {typeof written.again === 'object' && (
          <TextRow
            label="Once every"
            value={durationWords(written.again.onceIn)}
            read={(typed) => (readDuration(typed) ? null : 'A time is a number and a unit, such as “7 d”.')}
            onChange={(typed) => set({ again: { onceIn: readDuration(typed)! } })}
          />
        )}
        <PickRow
          label="If the person is already in the loop"
          value={written.whileRunning ?? 'start over'}
          options={
            [
              ['start over', 'start over'],
              ['ignore', 'ignore'],
              ['resume', 'continue where it was'],
            ] as const
          }
          onChange={(next) => set({ whileRunning: next === 'start over' ? undefined : next })}
        />
        <View style={{ flexDirection: 'row', gap: 8 }}>
          <ActionButton title="Done" onPress={onClose} />
          <QuietButton title="Remove cue" tone="red" onPress={onRemove} />
        </View>
      </View>
    </Dialog>
  );
}
