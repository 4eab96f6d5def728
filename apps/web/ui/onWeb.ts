import type { TextStyle, ViewStyle } from 'react-native';

/**
 * Properties and styles that only the web target has, typed here once: React Native's own types do not know
 * them, and its web target hands them on to the page.
 */
interface WebProps {
  /** Shown when a pointer rests on it. */
  title?: string;
  /** `data-…` attributes. */
  dataSet?: Record<string, string | undefined>;
  nativeID?: string;
  /** Lines of a text field. */
  rows?: number;
  role?: string;
  tabIndex?: number;
  'aria-label'?: string;
  'aria-live'?: 'polite' | 'assertive' | 'off';
  'aria-roledescription'?: string;
  onMouseDown?: (event: MouseEvent) => void;
  /** The focus has left what is inside. */
  onBlur?: () => void;
  onClick?: () => void;
  onKeyDown?: (event: KeyboardEvent) => unknown;
}
interface WebStyle {
  wordBreak?: 'break-all' | 'break-word';
  whiteSpace?: 'pre-wrap';
  overflow?: 'scroll';
  touchAction?: 'none';
  cursor?: 'grab' | 'pointer';
}

export const onWeb = (props: WebProps): object => props;

/** What is shown when a pointer rests on it. */
export const hint = (title: string | undefined): object => onWeb({ title });

export const webStyle = (
  style: Omit<ViewStyle & TextStyle, keyof WebStyle> & WebStyle,
): ViewStyle & TextStyle => style as ViewStyle & TextStyle;
