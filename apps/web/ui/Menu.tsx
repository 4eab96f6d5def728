import { useRef, useState, type ReactNode } from 'react';
import { Modal, Pressable, ScrollView, View } from 'react-native';
import { onWeb } from './onWeb';
import { whenHovered } from './hover';
import { Field } from './Field';
import { useTheme } from './theme';
import { Words } from './Words';

export interface MenuItem {
  key: string;
  words: string;
  /** A second, quieter line. */
  more?: string;
  chosen?: boolean;
  tone?: 'ink' | 'red';
  disabled?: boolean;
  onChoose(): void;
}

/** A list of more than these is searched by typing. */
const MOST_UNSEARCHED = 20;

/**
 * A button that opens a list: from the bottom on a phone, in the middle on a wide screen. Closed with Escape
 * or a tap beside it. A long one is searched by typing.
 */
export function Menu({
  label,
  title,
  items,
  children,
  compact,
  onOpenChange,
}: {
  label: string;
  title: string;
  items: MenuItem[];
  children: ReactNode;
  compact?: boolean;
  /** Told when the list opens and when it has closed again. */
  onOpenChange?: (open: boolean) => void;
}) {
  const { colors, touch } = useTheme();
  const [open, setOpen] = useState(false);
  const [wish, setWish] = useState('');
  const button = useRef<View>(null);
  const isLong = items.length > MOST_UNSEARCHED;
  const wished = wish.trim().toLowerCase();
  const shown = wished === '' ? items : items.filter(({ words }) => words.toLowerCase().includes(wished));
  const close = () => {
    setOpen(false);
    setWish('');
    onOpenChange?.(false);
    // The focus goes back to where the person was.
    setTimeout(() => (button.current as unknown as HTMLElement | null)?.focus(), 0);
  };
  return (
    <>
      <Pressable
        ref={button}
        role="button"
        aria-label={label}
        aria-haspopup="dialog"
        aria-expanded={open}
        onPress={() => {
          setOpen(true);
          onOpenChange?.(true);
        }}
        style={whenHovered((hovered) => [
          { minHeight: touch, minWidth: compact ? 0 : 44, justifyContent: 'center', borderRadius: 6 },
          hovered && { backgroundColor: colors.inset },
        ])}
      >
        {children}
      </Pressable>
      <Dialog title={title} open={open} onClose={close}>
        {isLong && (
          <View style={{ padding: 12 }}>
            <Field
              label="Only those with"
              value={wish}
              autoFocus
              autoCapitalize="none"
              onChangeText={setWish}
              onSubmitEditing={() => {
                const [first] = shown;
                if (wished === '' || !first) return;
                close();
                first.onChoose();
              }}
            />
          </View>
        )}
        {shown.length === 0 && (
          <Words kind="small" style={{ padding: 12 }}>
            None has that in it.
          </Words>
        )}
        {shown.map((item) => (
          <Pressable
            key={item.key}
            role="button"
            aria-pressed={item.chosen}
            aria-disabled={item.disabled}
            disabled={item.disabled}
            onPress={() => {
              close();
              item.onChoose();
            }}
            style={whenHovered((hovered) => [
              {
                minHeight: 44,
                justifyContent: 'center',
                paddingHorizontal: 12,
                paddingVertical: 6,
                borderRadius: 6,
                opacity: item.disabled ? 0.5 : 1,
              },
              (hovered || item.chosen) && { backgroundColor: colors.inset },
            ])}
          >
            <Words kind={item.chosen ? 'strong' : 'text'} color={item.tone ?? 'ink'}>
              {item.words}
            </Words>
            {item.more !== undefined && <Words kind="small">{item.more}</Words>}
          </Pressable>
        ))}
      </Dialog>
    </>
  );
}

/** A sheet over the page. The page behind is out of reach meanwhile. */
export function Dialog({
  title,
  open,
  onClose,
  children,
  foot,
  width = 480,
}: {
  title: string;
  open: boolean;
  onClose: () => void;
  children: ReactNode;
  /** Stays in sight below what is scrolled. */
  foot?: ReactNode;
  /** At the most, in pixels. */
  width?: number;
}) {
  const { colors, wide } = useTheme();
  return (
    <Modal
      visible={open}
      transparent
      animationType="none"
      onRequestClose={onClose}
      {...onWeb({ 'aria-label': title })}
    >
      <View style={{ flex: 1, justifyContent: wide ? 'center' : 'flex-end', alignItems: 'center' }}>
        <Pressable
          aria-hidden
          tabIndex={-1}
          onPress={onClose}
          style={{ position: 'absolute', top: 0, right: 0, bottom: 0, left: 0, backgroundColor: '#00000066' }}
        />
        <View
          style={{
            backgroundColor: colors.paper,
            borderRadius: wide ? 6 : 12,
            borderWidth: 1,
            borderColor: colors.line,
            width: '100%',
            maxWidth: width,
            maxHeight: '85%',
            padding: 12,
            paddingBottom: wide ? 12 : 24,
          }}
        >
          <View
            style={{
              flexDirection: 'row',
              justifyContent: 'space-between',
              alignItems: 'center',
              paddingLeft: 12,
            }}
          >
            <Words kind="heading">{title}</Words>
            <Pressable
              role="button"
              aria-label="Close"
              onPress={onClose}
              style={{ width: 44, height: 44, alignItems: 'center', justifyContent: 'center' }}
            >
              <Words aria-hidden color="quiet" style={{ fontSize: 20 }}>
                ×
              </Words>
            </Pressable>
          </View>
          <ScrollView>{children}</ScrollView>
          {foot && (
            <View
              style={{ paddingHorizontal: 12, paddingTop: 12, borderTopWidth: 1, borderColor: colors.line }}
            >
              {foot}
            </View>
          )}
        </View>
      </View>
    </Modal>
  );
}
