import { createContext, useContext, useEffect, useMemo, useState, type ReactNode } from 'react';
import { useColorScheme, useWindowDimensions } from 'react-native';
import { createTheme, ThemeProvider as ElementsTheme } from '@rneui/themed/dist/config/ThemeProvider';

/** The colours of look.md, by what they mean. */
export interface Palette {
  paper: string;
  sheet: string;
  /** A quiet ground on a sheet: a chosen row, an inset word, a bubble of ours. */
  inset: string;
  ink: string;
  quiet: string;
  line: string;
  /** The single next action, and "live". */
  vermilion: string;
  onVermilion: string;
  /** Links, and what runs by itself. */
  teal: string;
  /** Waiting and warnings. */
  ochre: string;
  /** A person has stepped in. */
  plum: string;
  /** Failure only. */
  red: string;
}
const LIGHT: Palette = {
  paper: '#FBF7F0',
  sheet: '#FFFFFF',
  inset: '#F3ECDF',
  ink: '#1E2330',
  quiet: '#5B6270',
  line: '#E2DACB',
  vermilion: '#C8401F',
  onVermilion: '#FFFFFF',
  teal: '#0F6B66',
  ochre: '#8A5F00',
  plum: '#7A3E73',
  red: '#9B1C1C',
};
const DARK: Palette = {
  paper: '#14171D',
  sheet: '#1C2028',
  inset: '#262B35',
  ink: '#F1ECE2',
  quiet: '#A3A9B5',
  line: '#313743',
  vermilion: '#FF7A52',
  onVermilion: '#14171D',
  teal: '#5CC3BA',
  ochre: '#E0B04A',
  plum: '#D49ACB',
  red: '#FF8A80',
};

export const FONTS = {
  text: 'Atkinson',
  bold: 'Atkinson-Bold',
  italic: 'Atkinson-Italic',
  heading: 'Bricolage',
  mono: 'PlexMono',
} as const;

export type Light = 'as the device' | 'light' | 'dark';
const KEPT = 'dart-loop.light';

interface Theme {
  colors: Palette;
  dark: boolean;
  /** Room for two or three panes. */
  wide: boolean;
  /**
   * The least height of what is pressed within a page: 44 for thumbs, less where a pointer and keys are at
   * hand.
   */
  touch: number;
  light: Light;
  setLight(light: Light): void;
}
const ThemeContext = createContext<Theme | null>(null);

const elements = (colors: Palette, dark: boolean) =>
  createTheme({
    mode: dark ? 'dark' : 'light',
    lightColors: { primary: LIGHT.vermilion, background: LIGHT.paper, black: LIGHT.ink, error: LIGHT.red },
    darkColors: { primary: DARK.vermilion, background: DARK.paper, black: DARK.ink, error: DARK.red },
    components: {
      Button: {
        buttonStyle: {
          borderRadius: 6,
          minHeight: 44,
          paddingHorizontal: 16,
          backgroundColor: colors.vermilion,
        },
        titleStyle: { fontFamily: FONTS.bold, fontSize: 16, color: colors.onVermilion },
        disabledStyle: { backgroundColor: colors.inset },
        disabledTitleStyle: { color: colors.quiet },
      },
    },
  });

/** Ready-made, one per mode: a mode set in an effect would be lost. */
const ELEMENTS = { light: elements(LIGHT, false), dark: elements(DARK, true) };

function keptLight(): Light {
  const kept = typeof localStorage === 'undefined' ? null : localStorage.getItem(KEPT);
  return kept === 'light' || kept === 'dark' ? kept : 'as the device';
}

export function ThemeProvider({ children }: { children: ReactNode }) {
  const device = useColorScheme();
  const { width } = useWindowDimensions();
  const [light, choose] = useState<Light>(keptLight);
  const dark = light === 'as the device' ? device === 'dark' : light === 'dark';
  const wide = width >= 900;
  useEffect(() => {
    document.documentElement.dataset.light = dark ? 'dark' : 'light';
    document.body.style.background = (dark ? DARK : LIGHT).paper;
    document.documentElement.style.colorScheme = dark ? 'dark' : 'light';
  }, [dark]);
  const theme = useMemo<Theme>(
    () => ({
      colors: dark ? DARK : LIGHT,
      dark,
      wide,
      touch: wide ? 36 : 44,
      light,
      setLight(next) {
        if (next === 'as the device') localStorage.removeItem(KEPT);
        else localStorage.setItem(KEPT, next);
        choose(next);
      },
    }),
    [dark, wide, light],
  );
  return (
    <ElementsTheme theme={dark ? ELEMENTS.dark : ELEMENTS.light}>
      <ThemeContext.Provider value={theme}>{children}</ThemeContext.Provider>
    </ElementsTheme>
  );
}

export function useTheme(): Theme {
  const theme = useContext(ThemeContext);
  if (!theme) throw new Error('useTheme outside of ThemeProvider');
  return theme;
}
