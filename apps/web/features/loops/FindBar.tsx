import { useMemo, useState } from 'react';
import { View } from 'react-native';
import { onWeb } from '../../ui/onWeb';
import type { Loop } from '@dart-loop/core';
import { findInLoop, replaceInLoop } from '@dart-loop/core/loops/edit/textEdits';
import { Field } from '../../ui/Field';
import { QuietButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';

/** Finds words in all texts of the loop, and puts others in their place: here, or everywhere. */
export function FindBar({
  loop,
  edit,
  show,
  onClose,
}: {
  loop: Loop;
  edit: (change: (loop: Loop) => Loop) => void;
  show: (stepId: string, keepFocus: boolean) => void;
  onClose: () => void;
}) {
  const { colors } = useTheme();
  const [words, setWords] = useState('');
  const [by, setBy] = useState('');
  const [at, setAt] = useState(0);
  const found = useMemo(() => findInLoop(loop, words), [loop, words]);
  const count = found.reduce((sum, each) => sum + each.count, 0);
  const go = (to: number) => {
    if (found.length === 0) return;
    const next = (to + found.length) % found.length;
    setAt(next);
    show(found[next]!.stepId, true);
  };
  const here = found[Math.min(at, found.length - 1)];
  return (
    <View
      aria-label="Find and replace"
      {...onWeb({
        role: 'search',
        onKeyDown: (event: KeyboardEvent) => event.key === 'Escape' && onClose(),
      })}
      style={{
        gap: 8,
        padding: 12,
        borderBottomWidth: 1,
        borderColor: colors.line,
        backgroundColor: colors.paper,
      }}
    >
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8, alignItems: 'flex-end' }}>
        <View style={{ flexGrow: 1, minWidth: 140 }}>
          <Field
            label="Find"
            placeholder="a word in any text"
            value={words}
            autoFocus
            onChangeText={(next) => (setWords(next), setAt(0))}
            onSubmitEditing={() => go(at + 1)}
            submitBehavior="submit"
          />
        </View>
        <View style={{ flexGrow: 1, minWidth: 140 }}>
          <Field label="Replace by" placeholder="another" value={by} onChangeText={setBy} />
        </View>
      </View>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', columnGap: 4 }}>
        <Words kind="small" role="status">
          {words === ''
            ? 'In texts, labels and retries of every step.'
            : count === 0
              ? 'Nowhere.'
              : `${count === 1 ? 'Once' : `${count} times`} in ${found.length === 1 ? '1 step' : `${found.length} steps`}.`}
        </Words>
        <QuietButton title="Next" disabled={count === 0} onPress={() => go(at + 1)} />
        <QuietButton
          title="Before"
          label="The one before"
          disabled={count === 0}
          onPress={() => go(at - 1)}
        />
        <QuietButton
          title="Replace here"
          disabled={!here}
          onPress={() => here && edit((before) => replaceInLoop(before, words, by, [here.stepId]))}
        />
        <QuietButton
          title="Replace all"
          disabled={count === 0}
          onPress={() => edit((before) => replaceInLoop(before, words, by))}
        />
        <QuietButton title="Close" tone="teal" onPress={onClose} />
      </View>
    </View>
  );
}
