import { useEffect, useState, type ReactNode } from 'react';
import { Pressable, View, type TextInputProps } from 'react-native';
import { onWeb } from './onWeb';
import { whenHovered } from './hover';
import { Field } from './Field';
import { Choice } from './Choice';
import { Menu } from './Menu';
import { useTheme } from './theme';
import { Words } from './Words';

/**
 * A text that is told as it is typed; what cannot be used stays in the field with the reason, and nothing is
 * lost.
 */
export function TextRow({
  label,
  value,
  onChange,
  read,
  ...rest
}: {
  label: string;
  value: string;
  /** Told when it can be used. */
  onChange: (next: string) => void;
  /** Why a text cannot be used; null when it can. */
  read?: (typed: string) => string | null;
  placeholder?: string;
  hint?: string;
  multiline?: boolean;
  autoFocus?: boolean;
  onSelectionChange?: TextInputProps['onSelectionChange'];
}) {
  const [typed, setTyped] = useState(value);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    setTyped((now) => (problem === null ? value : now));
  }, [value, problem]);
  return (
    <Field
      label={label}
      value={typed}
      problem={problem}
      onChangeText={(next) => {
        setTyped(next);
        const reason = read?.(next) ?? null;
        setProblem(reason);
        if (reason === null) onChange(next);
      }}
      {...rest}
      {...onWeb({ rows: rest.multiline ? Math.max(2, Math.min(8, Math.ceil(typed.length / 44))) : 1 })}
    />
  );
}

/** More than these are chosen from a list that opens. */
const MOST_IN_SIGHT = 6;

/** One of some, as a group with a name: all in sight while they are few, else in a list. */
export function PickRow<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (next: T) => void;
}) {
  const { colors } = useTheme();
  if (options.length > MOST_IN_SIGHT) {
    const chosen = options.find(([key]) => key === value)?.[1] ?? value;
    return (
      <View style={{ gap: 4 }}>
        <Words kind="smallStrong">{label}</Words>
        <View
          style={{ borderWidth: 1, borderColor: colors.line, borderRadius: 6, backgroundColor: colors.sheet }}
        >
          <Menu
            label={`${label}: ${chosen}. Change`}
            title={label}
            items={options.map(([key, words]) => ({
              key,
              words,
              chosen: key === value,
              onChoose: () => onChange(key),
            }))}
          >
            <View style={{ flexDirection: 'row', gap: 8, paddingHorizontal: 12 }}>
              <Words style={{ flex: 1 }}>{chosen}</Words>
              <Words aria-hidden color="quiet">
                ▾
              </Words>
            </View>
          </Menu>
        </View>
      </View>
    );
  }
  return (
    <View style={{ gap: 4 }}>
      <Words kind="smallStrong">{label}</Words>
      <View role="radiogroup" aria-label={label} style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 6 }}>
        {options.map(([key, words]) => (
          <Choice key={key} words={words} chosen={value === key} onChoose={() => onChange(key)} />
        ))}
      </View>
    </View>
  );
}

/** The square of what can be ticked; what it is for stands beside it. */
export function TickMark({ on }: { on: boolean }) {
  const { colors } = useTheme();
  return (
    <View
      style={{
        width: 22,
        height: 22,
        borderRadius: 4,
        borderWidth: 1.5,
        borderColor: colors.ink,
        alignItems: 'center',
        justifyContent: 'center',
        backgroundColor: on ? colors.ink : undefined,
      }}
    >
      <Words aria-hidden color="paper" style={{ fontSize: 15, lineHeight: 18 }}>
        {on ? '✓' : ''}
      </Words>
    </View>
  );
}

/** Yes or no. */
export function TickRow({
  label,
  on,
  onChange,
  hint,
}: {
  label: string;
  on: boolean;
  onChange: (next: boolean) => void;
  hint?: string;
}) {
  const { colors } = useTheme();
  return (
    <Pressable
      role="checkbox"
      aria-checked={on}
      aria-label={label}
      onPress={() => onChange(!on)}
      style={whenHovered((hovered) => ({
        minHeight: 44,
        flexDirection: 'row',
        alignItems: 'center',
        gap: 10,
        borderRadius: 6,
        paddingHorizontal: 4,
        backgroundColor: hovered ? colors.inset : undefined,
      }))}
    >
      <TickMark on={on} />
      <View style={{ flex: 1 }}>
        <Words>{label}</Words>
        {hint && <Words kind="small">{hint}</Words>}
      </View>
    </Pressable>
  );
}

/** Rows of a form that belong together. */
export function Group({ title, children }: { title: string; children: ReactNode }) {
  const { colors } = useTheme();
  return (
    <View
      role="group"
      aria-label={title}
      style={{ gap: 10, borderTopWidth: 1, borderColor: colors.line, paddingTop: 12 }}
    >
      <Words kind="smallStrong">{title}</Words>
      {children}
    </View>
  );
}
