import { Text } from 'react-native';
import { mergeWords, partsOf } from '@dart-loop/core/language/mergeParts';
import { FONTS, useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';

/** A text as it will read: merge fields stand as inset words. */
export function MergedText({ text }: { text: string }) {
  const { colors } = useTheme();
  return (
    <Words>
      {partsOf(text).map((part, index) =>
        part.kind === 'words' ? (
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
            {` ${mergeWords(part.path, part.fallback)} `}
          </Text>
        ),
      )}
    </Words>
  );
}

/** The same for a label that is read aloud. */
export const mergedWords = (text: string): string =>
  partsOf(text)
    .map((part) => (part.kind === 'words' ? part.text : mergeWords(part.path, part.fallback)))
    .join('');
