import { View, Pressable } from 'react-native';
import { useTheme, FONTS } from '../../../ui/theme';
import { Words } from '../../../ui/Words';
import { type Face, FACES } from '../faces';

/** The faces as tabs, the current one underlined. */
export function FaceTabs({
  faces,
  now,
  findings,
  onChoose,
  label,
}: {
  faces: readonly Face[];
  now: Face;
  findings: number;
  onChoose: (face: Face) => void;
  label: string;
}) {
  const { colors, touch } = useTheme();
  return (
    <View role="tablist" aria-label={label} style={{ flexDirection: 'row', flexWrap: 'wrap', columnGap: 16 }}>
      {faces.map((face) => (
        <Pressable
          key={face}
          role="tab"
          aria-selected={face === now}
          onPress={() => onChoose(face)}
          style={{
            minHeight: touch,
            justifyContent: 'center',
            borderBottomWidth: 2,
            borderColor: face === now ? colors.ink : 'transparent',
          }}
        >
          <Words
            color={face === now ? 'ink' : 'quiet'}
            style={{ fontFamily: face === now ? FONTS.bold : FONTS.text }}
          >
            {FACES[face]}
            {face === 'checks' && findings > 0 && <Words kind="code" color="ochre">{` ${findings}`}</Words>}
          </Words>
        </Pressable>
      ))}
    </View>
  );
}
