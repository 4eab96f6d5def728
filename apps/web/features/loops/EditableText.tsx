import { useEffect, useRef, useState, type ReactNode } from 'react';
import { Pressable, TextInput, View } from 'react-native';
import { onWeb } from '../../ui/onWeb';
import { WRITE_HERE } from '@dart-loop/core/loops/edit/newSteps';
import { Refused } from '../../ui/parts';
import { whenHovered } from '../../ui/hover';
import { FONTS, useTheme } from '../../ui/theme';
import { useWindowEvent } from '../../ui/useWindowEvent';
import { Words } from '../../ui/Words';
import { MergeMenu, useMerging } from './merging';
import { MergedText, mergedWords } from './MergedText';

/**
 * Text that becomes a field where it stands: tap or Enter to write, Escape or Ctrl+Enter when done. Written
 * at once, as typed; what has to be read, once it is whole.
 */
export function EditableText({
  value,
  label,
  placeholder,
  onChange,
  merges = false,
  children,
  read,
  multiline = true,
  mono,
  handle,
}: {
  value: string;
  label: string;
  placeholder: string;
  onChange: (next: string) => void;
  /** It may hold merge fields: they are written in square brackets, in words. */
  merges?: boolean;
  children?: ReactNode;
  /** One sentence while what is typed cannot be taken, else null; with it, it is written when done. */
  read?: (typed: string) => string | null;
  multiline?: boolean;
  mono?: boolean;
  handle?: string;
}) {
  const { colors, wide } = useTheme();
  const merging = useMerging(value);
  const shown = merges ? merging.written(value) : value;
  const [editing, setEditing] = useState(false);
  const [typed, setTyped] = useState(shown);
  /** What was typed, as it is stored. */
  const next = editing && merges ? merging.stored(typed) : typed;
  const isChanged = next.trim() !== '' && next !== value;
  const input = useRef<TextInput>(null);
  const button = useRef<View>(null);
  const whole = useRef<View>(null);
  const caret = useRef(shown.length);
  /** While the list of merge fields is open, the field has lost the focus but is not done with. */
  const choosing = useRef(false);
  /** The focus may come back by way of the list's button, and late on a slow machine. */
  const isLeft = () =>
    !choosing.current && !(whole.current as unknown as HTMLElement | null)?.contains(document.activeElement);
  const commit = useRef(onChange);
  commit.current = onChange;
  const readNow = useRef(read);
  readNow.current = read;
  const problem = editing && next !== value ? (read?.(next) ?? null) : null;
  useEffect(() => {
    if (!editing) setTyped(shown);
  }, [shown, editing]);
  useEffect(() => {
    if (!editing || !isChanged || readNow.current) return;
    const timer = setTimeout(() => commit.current(next), 350);
    return () => clearTimeout(timer);
  }, [next, isChanged, editing]);
  // A page that is left takes along what was typed in the last moment.
  const last = useRef('');
  last.current = editing && isChanged && problem === null ? next : '';
  useWindowEvent('pagehide', () => {
    if (last.current !== '') commit.current(last.current);
  });
  /** What cannot be read stays open to be mended, or is given up and stays as it was. */
  const done = (focusBack: boolean, giveUp = false) => {
    if (problem !== null && !giveUp) return;
    setEditing(false);
    if (problem === null && isChanged) onChange(next);
    if (focusBack) setTimeout(() => (button.current as unknown as HTMLElement | null)?.focus(), 0);
  };
  if (!editing)
    return (
      <Pressable
        ref={button}
        role="button"
        aria-label={`${label}: ${mergedWords(value) || placeholder}. Edit`}
        onPress={() => {
          // What stands there only until it is written is gone at once.
          setTyped(value === WRITE_HERE ? '' : shown);
          merging.begin(value);
          setEditing(true);
        }}
        {...onWeb({ dataSet: handle ? { edit: handle } : undefined })}
        style={whenHovered((hovered) => [
          { borderRadius: 4, minHeight: 24, justifyContent: 'center' },
          hovered && { backgroundColor: colors.inset },
        ])}
      >
        {value === '' ? (
          <Words color="quiet">{placeholder}</Words>
        ) : (
          (children ?? <MergedText text={value} />)
        )}
      </Pressable>
    );
  return (
    <View ref={whole} {...onWeb({ onBlur: () => setTimeout(() => isLeft() && done(false), 0) })}>
      <TextInput
        ref={input}
        aria-label={label}
        autoFocus
        multiline={multiline}
        value={typed}
        placeholder={placeholder}
        placeholderTextColor={colors.quiet}
        onChangeText={setTyped}
        onSelectionChange={(event) => (caret.current = event.nativeEvent.selection.end)}
        onKeyPress={(event) => {
          const native = event.nativeEvent as unknown as KeyboardEvent;
          if (
            native.key === 'Escape' ||
            (native.key === 'Enter' && (native.ctrlKey || native.metaKey || !multiline))
          ) {
            event.preventDefault();
            done(true, native.key === 'Escape');
          }
        }}
        {...onWeb({
          rows: multiline
            ? Math.max(
                2,
                Math.min(12, Math.ceil(typed.length / (wide ? 56 : 24)) + typed.split('\n').length - 1),
              )
            : 1,
        })}
        style={{
          fontFamily: mono ? FONTS.mono : FONTS.text,
          fontSize: 16,
          lineHeight: 24,
          color: colors.ink,
          backgroundColor: colors.paper,
          borderWidth: 1,
          borderColor: colors.quiet,
          borderRadius: 6,
          padding: 8,
          minHeight: 44,
        }}
      />
      <Refused problem={problem} />
      {merges && (
        <View
          style={{ alignSelf: 'flex-start' }}
          {...onWeb({ onMouseDown: (event: Event) => event.preventDefault() })}
        >
          <MergeMenu
            onOpenChange={(open) => {
              if (open) choosing.current = true;
              else
                setTimeout(() => {
                  input.current?.focus();
                  choosing.current = false;
                }, 30);
            }}
            onChoose={(field) => setTyped(typed.slice(0, caret.current) + field + typed.slice(caret.current))}
          />
        </View>
      )}
    </View>
  );
}
