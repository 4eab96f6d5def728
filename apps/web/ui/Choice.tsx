import type { ReactNode } from 'react';
import { Pressable } from 'react-native';
import { whenHovered } from './hover';
import { useTheme } from './theme';
import { Words } from './Words';

/** One of a few, in a group with the role `radiogroup`. */
export function Choice({
  words,
  chosen,
  onChoose,
  mark,
}: {
  words: string;
  chosen: boolean;
  onChoose: () => void;
  mark?: ReactNode;
}) {
  const { colors } = useTheme();
  return (
    <Pressable
      role="radio"
      aria-checked={chosen}
      onPress={onChoose}
      style={whenHovered((hovered) => ({
        minHeight: 44,
        flexDirection: 'row',
        gap: 6,
        alignItems: 'center',
        paddingHorizontal: 10,
        borderRadius: 6,
        borderWidth: 1,
        borderColor: chosen ? colors.ink : colors.line,
        backgroundColor: chosen || hovered ? colors.inset : undefined,
      }))}
    >
      {mark}
      <Words kind={chosen ? 'smallStrong' : 'small'} color="ink">
        {words}
      </Words>
    </Pressable>
  );
}
