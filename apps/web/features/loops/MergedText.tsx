import { Text } from 'react-native';
import { mergeWords, parseMerge } from '@dart-loop/core/language/merge';
import { FONTS, useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';

/** A text as it will read: merge fields stand as inset words. */
export function MergedText({ text }: { text: string }) {
  const { colors } = useTheme();
  return (
    <Words>
      {parseMerge(text).parts.map((part, index) =>
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
  parseMerge(text)
    .parts.map((part) => (part.kind === 'words' ? part.text : mergeWords(part.path, part.fallback)))
    .join('');
