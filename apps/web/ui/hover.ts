import type { StyleProp, ViewStyle } from 'react-native';

/** A Pressable's style that depends on the pointer being over it, which only the web target tells. */
export const whenHovered =
  (style: (hovered: boolean) => StyleProp<ViewStyle>) =>
  (state: object): StyleProp<ViewStyle> =>
    style(Boolean((state as { hovered?: boolean }).hovered));
