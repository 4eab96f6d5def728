import { Text, type TextProps, type TextStyle } from 'react-native';
import { FONTS, useTheme, type Palette } from './theme';

type Kind =
  | 'title'
  | 'heading'
  | 'name'
  | 'figure'
  | 'text'
  | 'strong'
  | 'small'
  | 'smallStrong'
  | 'code'
  | 'verb'
  | 'direction';

const STYLES: Record<Kind, TextStyle> = {
  title: { fontFamily: FONTS.heading, fontSize: 26, lineHeight: 32 },
  heading: { fontFamily: FONTS.heading, fontSize: 19, lineHeight: 24 },
  // As large as a heading, but the name of one thing in a list, or a figure.
  name: { fontFamily: FONTS.heading, fontSize: 19, lineHeight: 24 },
  figure: { fontFamily: FONTS.heading, fontSize: 24, lineHeight: 30 },
  text: { fontFamily: FONTS.text, fontSize: 16, lineHeight: 24 },
  strong: { fontFamily: FONTS.bold, fontSize: 16, lineHeight: 24 },
  small: { fontFamily: FONTS.text, fontSize: 14, lineHeight: 20 },
  smallStrong: { fontFamily: FONTS.bold, fontSize: 14, lineHeight: 20 },
  code: { fontFamily: FONTS.mono, fontSize: 13, lineHeight: 20, fontVariant: ['tabular-nums'] },
  verb: {
    fontFamily: FONTS.bold,
    fontSize: 13,
    lineHeight: 24,
    letterSpacing: 0.8,
    textTransform: 'uppercase',
  },
  direction: { fontFamily: FONTS.italic, fontSize: 14, lineHeight: 20 },
};

export interface WordsProps extends TextProps {
  kind?: Kind;
  color?: keyof Palette;
}

/** All text of the application. Headings say so to assistive technology. */
export function Words({ kind = 'text', color, style, ...rest }: WordsProps) {
  const { colors } = useTheme();
  const ink =
    color ??
    (kind === 'small' || kind === 'verb' || kind === 'direction' || kind === 'code' ? 'quiet' : 'ink');
  const role =
    kind === 'title'
      ? ({ role: 'heading', 'aria-level': 1 } as const)
      : kind === 'heading'
        ? ({ role: 'heading', 'aria-level': 2 } as const)
        : {};
  return <Text {...role} {...rest} style={[STYLES[kind], { color: colors[ink] }, style]} />;
}
