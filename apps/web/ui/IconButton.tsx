import { Pressable } from 'react-native';
import { whenHovered } from './hover';
import { Icon, type IconName } from './Icon';
import { hint } from './onWeb';
import { useTheme, type Palette } from './theme';

/** A known action as its drawing alone; its name is heard, and shown when a pointer rests on it. */
export function IconButton({
  icon,
  color,
  label,
  disabled,
  onPress,
}: {
  icon: IconName;
  color?: keyof Palette;
  label: string;
  disabled?: boolean;
  onPress: () => void;
}) {
  const { colors, touch } = useTheme();
  return (
    <Pressable
      role="button"
      aria-label={label}
      disabled={disabled}
      onPress={onPress}
      {...hint(label)}
      style={whenHovered((hovered) => ({
        width: touch,
        height: touch,
        alignItems: 'center',
        justifyContent: 'center',
        borderRadius: 6,
        opacity: disabled ? 0.4 : 1,
        backgroundColor: hovered && !disabled ? colors.inset : undefined,
      }))}
    >
      <Icon name={icon} size={18} color={color} />
    </Pressable>
  );
}
