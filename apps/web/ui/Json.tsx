import { useTheme } from './theme';
import { webStyle } from './onWeb';
import { Words } from './Words';

/** JSON, or a text that came instead, to be read and taken over. */
export function Json({ label, value }: { label: string; value: unknown }) {
  const { colors } = useTheme();
  return (
    <Words
      kind="code"
      selectable
      aria-label={label}
      color="ink"
      style={webStyle({
        backgroundColor: colors.inset,
        padding: 8,
        borderRadius: 6,
        whiteSpace: 'pre-wrap',
        wordBreak: 'break-word',
      })}
    >
      {typeof value === 'string' ? value : JSON.stringify(value, null, 2)}
    </Words>
  );
}
