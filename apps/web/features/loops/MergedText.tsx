import { Text } from 'react-native';
import { shownParts } from '@dart-loop/core/language/mergeParts';
import { FONTS, useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';

/** A text as it will read: merge fields stand as inset words. */
export function MergedText({ text }: { text: string }) {
  const { colors } = useTheme();
  return (
    <Words>
      {shownParts(text).map((part, index) =>
        !part.isMerged ? (
          part.text
        ) : (
          <Text
            key={index}
            style={
              {
                fontFamily: FONTS.text,
                backgroundColor: colors.inset,
                color: colors.ink,
                textDecorationLine: 'underline',
                textDecorationColor: colors.quiet,
              } as never
            }
          >
            {` ${part.text} `}
          </Text>
        ),
      )}
    </Words>
  );
}

/** The same for a label that is read aloud. */
export const mergedWords = (text: string): string =>
  shownParts(text)
    .map((part) => part.text)
    .join('');
