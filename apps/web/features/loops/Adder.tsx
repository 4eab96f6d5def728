import { useEffect, useMemo, useRef, useState } from 'react';
import { Pressable, TextInput, View } from 'react-native';
import { onWeb, webStyle } from '../../ui/onWeb';
import type { Loop } from '@dart-loop/core';
import { STEP_LIST } from '@dart-loop/core/loops/edit/newSteps';
import { typedWords } from '@dart-loop/core/loops/edit/typedWords';
import { whenHovered } from '../../ui/hover';
import { FONTS, useTheme } from '../../ui/theme';
import { useMerging } from './merging';
import { Words } from '../../ui/Words';

/**
 * Where a step is typed: what is wanted in a line, several lines pasted, or one of the list below. Stays open
 * for the next.
 */
export function Adder({
  kept,
  loop,
  at,
  onAdd,
  onClose,
}: {
  /** Names what is half written, on this device. */
  kept: string;
  loop: Loop;
  at: { sceneId: string; index: number };
  /** Gives the sentence why it could not be added, or null. */
  onAdd: (written: string) => string | null;
  onClose: (focusStep: boolean) => void;
}) {
  const { colors, wide } = useTheme();
  // What is half written outlives a reload.
  const [typed, setTyped] = useState(() => keptWords(kept) ?? '');
  useEffect(() => keepWords(kept, typed === '' ? null : { at, typed }), [kept, at, typed]);
  const [problem, setProblem] = useState<string | null>(null);
  const input = useRef<TextInput>(null);
  const { stored } = useMerging('');
  const line = whole(typed.split('\n').at(-1) ?? '', stored);
  const words = useMemo(
    () => (typed.trim() === '' ? null : typedWords(loop, at, line)),
    [loop, at, typed, line],
  );
  const wish = typed.trim().toLowerCase();
  const list = useMemo(
    () =>
      STEP_LIST.filter(
        (each) =>
          wish === '' ||
          each.words.toLowerCase().includes(wish) ||
          (each.typed.toLowerCase().startsWith(wish) && each.typed !== typed.trim()),
      ).slice(0, wish === '' ? STEP_LIST.length : 5),
    [wish, typed],
  );
  const add = (written: string) => {
    if (written.trim() === '') return;
    const reason = onAdd(
      written
        .split('\n')
        .map((each) => whole(each, stored))
        .join('\n'),
    );
    setProblem(reason);
    if (reason === null) setTyped('');
    input.current?.focus();
  };
  useEffect(() => input.current?.focus(), [at.sceneId, at.index]);
  return (
    <View
      role="group"
      aria-label="Add a step"
      style={{
        marginHorizontal: 14,
        marginVertical: 6,
        borderWidth: 1,
        borderColor: colors.teal,
        borderRadius: 6,
        backgroundColor: colors.paper,
      }}
    >
      <TextInput
        ref={input}
        aria-label="What comes next?"
        placeholder={
          wide
            ? 'A text, or “ask email”, “wait 2h”, “- Choice -> Scene”'
            : 'A text, or “ask email”, “wait 2h”'
        }
        placeholderTextColor={colors.quiet}
        multiline
        value={typed}
        onChangeText={(next) => {
          setTyped(next);
          setProblem(null);
        }}
        onKeyPress={(event) => {
          const native = event.nativeEvent as unknown as KeyboardEvent;
          if (native.key === 'Escape') {
            event.preventDefault();
            keepWords(kept, null);
            onClose(true);
          } else if (native.key === 'Enter' && !native.shiftKey) {
            event.preventDefault();
            add(typed);
          }
        }}
        {...onWeb({ rows: Math.max(1, Math.min(10, typed.split('\n').length)) })}
        style={{
          fontFamily: FONTS.text,
          fontSize: 16,
          lineHeight: 24,
          color: colors.ink,
          padding: 10,
          minHeight: 44,
        }}
      />
      <View role="status" style={{ paddingHorizontal: 10, paddingBottom: 4 }}>
        {problem !== null ? (
          <Words kind="small" color="red">
            {problem}
          </Words>
        ) : words !== null ? (
          <Words kind="small" color="teal">{`Enter adds ${words}`}</Words>
        ) : typed.trim() !== '' ? (
          <Words kind="small">Enter adds it as it stands, to be said. Shift+Enter: another line.</Words>
        ) : null}
      </View>
      <View style={webStyle({ maxHeight: 264, overflow: 'scroll' })}>
        {list.map((each) => (
          <Pressable
            key={each.words}
            role="button"
            aria-label={`${each.words}: ${each.more}`}
            onPress={() => add(each.typed)}
            style={whenHovered((hovered) => ({
              minHeight: 44,
              paddingHorizontal: 10,
              paddingVertical: 4,
              flexDirection: 'row',
              alignItems: 'center',
              gap: 8,
              borderTopWidth: 1,
              borderColor: colors.line,
              backgroundColor: hovered ? colors.inset : undefined,
            }))}
          >
            <View style={{ flex: 1 }}>
              <Words>{each.words}</Words>
              <Words kind="small">{each.more}</Words>
            </View>
            {!each.typed.includes('\n') && !each.typed.startsWith('Write') && (
              <Words kind="code">{each.typed}</Words>
            )}
          </Pressable>
        ))}
      </View>
      <Pressable
        role="button"
        aria-label="Done adding"
        onPress={() => {
          keepWords(kept, null);
          onClose(false);
        }}
        style={whenHovered((hovered) => ({
          minHeight: 44,
          justifyContent: 'center',
          paddingHorizontal: 10,
          borderTopWidth: 1,
          borderColor: colors.line,
          backgroundColor: hovered ? colors.inset : undefined,
        }))}
      >
        <Words kind="smallStrong">Done adding</Words>
      </Pressable>
    </View>
  );
}

type Half = { at: { sceneId: string; index: number }; typed: string };

function keepWords(name: string, half: Half | null): void {
  if (half) sessionStorage.setItem(`dart-loop.adder.${name}`, JSON.stringify(half));
  else sessionStorage.removeItem(`dart-loop.adder.${name}`);
}

/** What was half written in a loop, and where, before the page was left; null where nothing was. */
export function halfWritten(name: string): Half | null {
  try {
    return JSON.parse(sessionStorage.getItem(`dart-loop.adder.${name}`) ?? 'null') as Half | null;
  } catch {
    return null;
  }
}
const keptWords = (name: string) => halfWritten(name)?.typed;

/** A typed line with its merge fields as they are stored; what it begins with in brackets is a choice. */
const whole = (line: string, stored: (written: string) => string) =>
  /^\s*\[/.test(line) ? line : stored(line);
