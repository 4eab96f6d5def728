import type { ReactNode } from 'react';
import { Pressable, View } from 'react-native';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';

/** One way out: its letter or sign, what it is, where it leads, and a button that takes it away. */
export function ExitRow({
  letter,
  children,
  remove,
  onRemove,
}: {
  letter: string;
  children: ReactNode;
  remove: string;
  onRemove: () => void;
}) {
  const { colors, touch } = useTheme();
  return (
    <View
      style={{
        flexDirection: 'row',
        borderTopWidth: 1,
        borderStyle: 'dashed',
        borderColor: colors.line,
        minHeight: touch,
      }}
    >
      <Words kind="code" style={{ width: 20, lineHeight: touch }}>
        {letter}
      </Words>
      <View
        style={{
          flex: 1,
          minWidth: 0,
          flexDirection: 'row',
          flexWrap: 'wrap',
          alignItems: 'center',
          justifyContent: 'space-between',
          columnGap: 10,
        }}
      >
        {children}
      </View>
      <RemoveButton label={remove} onPress={onRemove} />
    </View>
  );
}

/** Takes away the row that it stands in. */
export function RemoveButton({ label, onPress }: { label: string; onPress: () => void }) {
  const { touch } = useTheme();
  return (
    <Pressable
      role="button"
      aria-label={label}
      onPress={onPress}
      style={{ width: 44, height: touch, alignItems: 'center', justifyContent: 'center' }}
    >
      <Words aria-hidden color="quiet" style={{ fontSize: 18 }}>
        ×
      </Words>
    </Pressable>
  );
}
