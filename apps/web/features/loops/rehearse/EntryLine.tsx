import { Pressable, View } from 'react-native';
import { onWeb } from '../../../ui/onWeb';
import type { RehearsalEntry } from '@dart-loop/core/engine/rehearsal/rehearsal';
import { priceOf, priceWords } from '@dart-loop/core/meter/prices';
import { whenHovered } from '../../../ui/hover';
import { useTheme } from '../../../ui/theme';
import { Words } from '../../../ui/Words';

/** One line of a rehearsal: a bubble, or a stage direction between the bubbles. */
export function EntryLine({
  entry,
  taps,
  time,
  onTap,
}: {
  entry: RehearsalEntry;
  /** Whether choices can be tapped on the channel; else they stand in the text. */
  taps: boolean;
  time: string;
  onTap?: (label: string) => void;
}) {
  const { colors, touch } = useTheme();
  if (entry.from === 'stage' || entry.from === 'outside')
    return (
      <View
        style={{
          borderLeftWidth: 2,
          borderColor: entry.from === 'outside' ? colors.teal : colors.line,
          paddingLeft: 8,
        }}
      >
        {entry.text !== '' && (
          <Words kind="direction" color={entry.from === 'outside' ? 'teal' : 'quiet'}>
            {entry.text}
          </Words>
        )}
        {entry.reason !== '' && (
          <Words kind="direction" style={{ fontSize: 13 }}>
            {entry.reason}
          </Words>
        )}
      </View>
    );
  const theirs = entry.from === 'them';
  return (
    <View
      style={{ alignSelf: theirs ? 'flex-end' : 'flex-start', maxWidth: '90%', gap: 4 }}
      {...onWeb({ title: time })}
    >
      <View
        style={{
          backgroundColor: theirs ? colors.ink : colors.inset,
          borderRadius: 6,
          paddingHorizontal: 11,
          paddingVertical: 7,
        }}
      >
        <Words color={theirs ? 'paper' : 'ink'}>{entry.text}</Words>
      </View>
      {entry.from === 'us' && taps && entry.choices.length > 0 && (
        <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 4 }}>
          {entry.choices.map((label) => (
            <Pressable
              key={label}
              role="button"
              aria-label={`Tap ${label}`}
              disabled={!onTap}
              onPress={() => onTap?.(label)}
              style={whenHovered((hovered) => ({
                minHeight: touch,
                justifyContent: 'center',
                borderWidth: 1,
                borderColor: colors.teal,
                borderRadius: touch / 2,
                paddingHorizontal: 12,
                backgroundColor: hovered ? colors.inset : undefined,
              }))}
            >
              <Words kind="smallStrong" color="teal">
                {label}
              </Words>
            </Pressable>
          ))}
        </View>
      )}
      {entry.from === 'us' && entry.parts !== null && (
        <Words kind="direction" style={{ fontSize: 13 }}>
          {`${entry.parts === 1 ? '1 part' : `${entry.parts} parts`}, ${priceWords(priceOf({ channel: 'sms', parts: entry.parts }))}`}
        </Words>
      )}
    </View>
  );
}
