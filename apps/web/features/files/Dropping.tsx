import { useRef, useState, type ReactNode } from 'react';
import { View } from 'react-native';
import { Refused, Waiting } from '../../ui/parts';
import { QuietButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { useAct } from '../session/useAct';
import { ACCEPTED } from './useFiles';

/** Takes a file that is chosen, or dragged in. */
export function Dropping({
  words,
  label,
  take,
  children,
  outlined = true,
  accept = ACCEPTED,
}: {
  /** On the button. */
  words: string;
  label?: string;
  take: (chosen: File, progress: (part: number) => void) => Promise<void>;
  children?: ReactNode;
  outlined?: boolean;
  /** What can be chosen on this device. */
  accept?: string;
}) {
  const { colors } = useTheme();
  const input = useRef<HTMLInputElement>(null);
  const [sent, setSent] = useState<number | null>(null);
  const [over, setOver] = useState(false);
  const { act, problem } = useAct();
  const begin = (chosen: File | undefined) => {
    if (!chosen || sent !== null) return;
    setSent(0);
    void act(() => take(chosen, setSent)).then(() => setSent(null));
  };
  return (
    <div
      style={{
        display: 'flex',
        flexDirection: 'column',
        gap: 8,
        borderRadius: 6,
        outline: over ? `2px dashed ${colors.teal}` : undefined,
      }}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        begin(event.dataTransfer.files[0]);
      }}
    >
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8, alignItems: 'center' }}>
        {sent === null ? (
          <QuietButton
            outlined={outlined}
            title={words}
            label={label}
            onPress={() => input.current?.click()}
          />
        ) : (
          <Waiting words={sent < 1 ? `Sending, ${Math.round(sent * 100)} %` : 'Looking at the file'} />
        )}
        {children}
      </View>
      <Refused problem={problem} />
      <input
        ref={input}
        type="file"
        accept={accept}
        aria-hidden
        aria-label={label ?? words}
        style={{ position: 'absolute', width: 1, height: 1, opacity: 0, pointerEvents: 'none' }}
        tabIndex={-1}
        onChange={(event) => {
          begin(event.target.files?.[0]);
          // The same file can be chosen once more.
          event.target.value = '';
        }}
      />
    </div>
  );
}
