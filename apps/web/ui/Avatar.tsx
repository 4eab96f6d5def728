import { View } from 'react-native';
import { Icon } from './Icon';
import { FONTS, useTheme } from './theme';
import { Words } from './Words';

/** A person's initials; for a number or a handle, a drawing. */
export function Avatar({ name, size = 30 }: { name: string; size?: number }) {
  const { colors } = useTheme();
  const initials = initialsOf(name);
  return (
    <View
      aria-hidden
      style={{
        width: size,
        height: size,
        borderRadius: size / 2,
        borderWidth: 1,
        borderColor: colors.line,
        backgroundColor: colors.inset,
        alignItems: 'center',
        justifyContent: 'center',
      }}
    >
      {initials === '' ? (
        <Icon name="person" size={15} />
      ) : (
        <Words style={{ fontFamily: FONTS.bold, fontSize: 12, lineHeight: 16 }}>{initials}</Words>
      )}
    </View>
  );
}

/** The first letters of the first and last word, where they are letters. */
export function initialsOf(name: string): string {
  const words = name.split(/\s+/).filter((word) => /^\p{L}/u.test(word));
  const chosen = words.length > 1 ? [words[0]!, words.at(-1)!] : words;
  return chosen.map((word) => [...word][0]!.toLocaleUpperCase()).join('');
}
