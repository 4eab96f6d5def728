import { useState } from 'react';
import { Linking, Pressable, View } from 'react-native';
import { webStyle } from '../../ui/onWeb';
import type { PhoneButton, PhoneMessage } from '@dart-loop/contract';
import { whenHovered } from '../../ui/hover';
import { useTheme } from '../../ui/theme';
import { clock } from '../../ui/time';
import { Words } from '../../ui/Words';

/**
 * A message as a phone of no brand shows it, with what can be tapped under it as its channel lays that out.
 */
export function Bubble({ message, onTap }: { message: PhoneMessage; onTap: (ref: string) => void }) {
  const { colors } = useTheme();
  const mine = message.from === 'person';
  const words = mine && message.media && message.text === '' ? `(${message.media})` : message.text;
  return (
    <View style={{ alignSelf: mine ? 'flex-end' : 'flex-start', maxWidth: '88%', gap: 4 }}>
      <View
        style={{
          backgroundColor: mine ? colors.ink : colors.inset,
          borderRadius: 6,
          paddingHorizontal: 12,
          paddingVertical: 8,
          gap: 4,
        }}
      >
        {!mine && message.media && (
          <Words
            kind="code"
            color="quiet"
            style={webStyle({ wordBreak: 'break-all' })}
          >{`▣ ${message.media}`}</Words>
        )}
        {words !== '' && <Words color={mine ? 'paper' : 'ink'}>{words}</Words>}
      </View>
      {message.as === 'list' ? (
        <List opens={message.opens ?? 'Choose'} rows={message.buttons} onTap={onTap} />
      ) : (
        <View
          style={{
            gap: 4,
            ...(message.as === 'quick replies' && { flexDirection: 'row', flexWrap: 'wrap' }),
          }}
        >
          {message.buttons.map((button, index) => (
            <TapButton key={index} button={button} round={message.as === 'quick replies'} onTap={onTap} />
          ))}
        </View>
      )}
      <Words kind="code" style={{ alignSelf: mine ? 'flex-end' : 'flex-start' }}>
        {clock(message.at)}
      </Words>
    </View>
  );
}

/** A list stands behind the button that opens it. */
function List({ opens, rows, onTap }: { opens: string; rows: PhoneButton[]; onTap: (ref: string) => void }) {
  const [open, setOpen] = useState(false);
  return (
    <View style={{ gap: 4 }}>
      <TapButton
        button={{ text: `${opens} ${open ? '▴' : '▾'}` }}
        label={opens}
        open={open}
        onTap={() => setOpen(!open)}
      />
      {open &&
        rows.map((row, index) => (
          <TapButton
            key={index}
            button={row}
            onTap={(ref) => {
              setOpen(false);
              onTap(ref);
            }}
          />
        ))}
    </View>
  );
}

function TapButton({
  button: { text, data, url, note },
  round,
  label,
  open,
  onTap,
}: {
  button: PhoneButton;
  round?: boolean;
  label?: string;
  open?: boolean;
  onTap: (ref: string) => void;
}) {
  const { colors } = useTheme();
  return (
    <Pressable
      role={url ? 'link' : 'button'}
      aria-label={label ?? (note ? `${text}: ${note}` : text)}
      aria-expanded={open}
      onPress={() => (url ? void Linking.openURL(url) : onTap(data ?? ''))}
      style={whenHovered((hovered) => ({
        minHeight: 44,
        justifyContent: 'center',
        alignItems: 'center',
        borderWidth: 1,
        borderColor: colors.teal,
        borderRadius: round ? 22 : 6,
        paddingHorizontal: 14,
        paddingVertical: 4,
        backgroundColor: hovered ? colors.inset : undefined,
      }))}
    >
      <Words kind="strong" color="teal">
        {url ? `${text} ↗` : text}
      </Words>
      {note && (
        <Words kind="small" color="ink">
          {note}
        </Words>
      )}
    </Pressable>
  );
}
