import { Link, type Href } from 'expo-router';
import { useState, type ReactNode } from 'react';
import { Pressable, StyleSheet, type StyleProp, type ViewStyle } from 'react-native';
import { whenHovered } from './hover';
import Button from '@rneui/themed/dist/Button';
import { FONTS, useTheme } from './theme';
import { Words } from './Words';

/** What a button is called by those who hear it: what is seen on it is always part of that. */
function nameWith(title: string, label: string | undefined): string {
  const plain = (words: string) => words.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, ' ');
  if (label === undefined) return title;
  return plain(label).includes(plain(title)) ? label : `${title}. ${label}`;
}

/** The page's single next action. */
export function ActionButton({
  title,
  onPress,
  disabled,
  busy,
  label,
}: {
  title: string;
  onPress: () => void;
  disabled?: boolean;
  busy?: boolean;
  label?: string;
}) {
  return (
    <Button
      title={title}
      onPress={onPress}
      disabled={disabled || busy}
      loading={busy}
      // The turning mark has a name too, for those who hear it.
      loadingProps={{ 'aria-label': nameWith(title, label) }}
      accessibilityLabel={nameWith(title, label)}
      accessibilityRole="button"
    />
  );
}

/** Any other button: words, perhaps with a hairline around them. */
export function QuietButton({
  title,
  onPress,
  disabled,
  tone = 'ink',
  outlined,
  label,
  hint,
}: {
  title: string;
  onPress: () => void;
  disabled?: boolean;
  tone?: 'ink' | 'teal' | 'red' | 'quiet';
  outlined?: boolean;
  label?: string;
  hint?: string;
}) {
  const { colors, touch } = useTheme();
  return (
    <Pressable
      role="button"
      aria-label={nameWith(title, label)}
      accessibilityHint={hint}
      disabled={disabled}
      onPress={onPress}
      style={whenHovered((hovered) => [
        {
          minHeight: touch,
          justifyContent: 'center',
          paddingHorizontal: outlined ? 14 : 6,
          borderRadius: 6,
          opacity: disabled ? 0.45 : 1,
        },
        outlined && { borderWidth: 1, borderColor: colors.line, backgroundColor: colors.sheet },
        hovered && !disabled && { backgroundColor: colors.inset },
      ])}
    >
      <Words style={{ fontFamily: FONTS.bold, color: colors[tone], fontSize: 15 }}>{title}</Words>
    </Pressable>
  );
}

/** A link with an address of its own; opens in a new tab when the person asks for it. */
export function PlaceLink({
  href,
  children,
  style,
  current,
  label,
}: {
  href: string;
  children: ReactNode;
  style?: StyleProp<ViewStyle>;
  current?: boolean;
  label?: string;
}) {
  const { colors } = useTheme();
  const [hovered, hover] = useState(false);
  return (
    <Link href={href as Href} asChild>
      <Pressable
        role="link"
        aria-label={label}
        aria-current={current ? 'page' : undefined}
        onHoverIn={() => hover(true)}
        onHoverOut={() => hover(false)}
        style={StyleSheet.flatten([
          { minHeight: 44, justifyContent: 'center', borderRadius: 6 },
          hovered && { backgroundColor: colors.inset },
          style,
        ])}
      >
        {children}
      </Pressable>
    </Link>
  );
}

/** A link within a sentence or alone on a line. */
export function TextLink({
  href,
  children,
  label,
  tone = 'teal',
}: {
  href: string;
  children: string;
  /** Where the words alone do not say what is meant. */
  label?: string;
  tone?: 'teal' | 'vermilion';
}) {
  return (
    <PlaceLink href={href} label={label} style={{ alignSelf: 'flex-start' }}>
      <Words kind="strong" color={tone}>
        {children}
      </Words>
    </PlaceLink>
  );
}
