import { type ChannelKind, CHANNELS } from '@dart-loop/core';
import { Pressable } from 'react-native';
import { whenHovered } from '../../../ui/hover';
import { useTheme } from '../../../ui/theme';
import { Words } from '../../../ui/Words';

export function ChannelChoice({
  channel,
  chosen,
  faint,
  onChoose,
}: {
  channel: ChannelKind;
  chosen: boolean;
  faint: boolean;
  onChoose: () => void;
}) {
  const { colors, touch } = useTheme();
  const { mark, name } = CHANNELS[channel];
  return (
    <Pressable
      role="radio"
      aria-checked={chosen}
      aria-label={faint ? `${name}, on which this loop has no line` : name}
      onPress={onChoose}
      style={whenHovered((hovered) => ({
        width: touch === 44 ? 40 : 32,
        minHeight: touch,
        alignItems: 'center',
        justifyContent: 'center',
        borderRadius: 6,
        borderWidth: 1,
        borderStyle: faint ? 'dashed' : 'solid',
        borderColor: chosen ? colors.ink : colors.line,
        backgroundColor: chosen ? colors.ink : hovered ? colors.inset : undefined,
      }))}
    >
      <Words kind="code" color={chosen ? 'paper' : faint ? 'quiet' : 'ink'}>
        {mark}
      </Words>
    </Pressable>
  );
}
