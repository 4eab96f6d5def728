import { router, usePathname, type Href } from 'expo-router';
import { useState } from 'react';
import { Pressable, View, type ViewStyle } from 'react-native';
import { useSWRConfig } from 'swr';
import type { ClientSummary, Session } from '@dart-loop/contract';
import { Field } from '../../ui/Field';
import { whenHovered } from '../../ui/hover';
import { Icon } from '../../ui/Icon';
import { IconButton } from '../../ui/IconButton';
import { Dialog } from '../../ui/Menu';
import { StateShape } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { NoneFound, withName } from '../clients/useFound';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { clientWords, samePlace } from './places';

/** From so many clients on they are found by typing. */
const SEARCHED_FROM = 4;

/** Chooses the client, by a press or by typing; one stays at the same place of the other client. */
export function ClientSwitch({
  session,
  client,
  open,
  setOpen,
  style,
}: {
  session: Session;
  client: ClientSummary;
  open: boolean;
  setOpen: (open: boolean) => void;
  style?: ViewStyle;
}) {
  const { colors, touch } = useTheme();
  const path = usePathname();
  const [typed, setTyped] = useState('');
  const close = () => {
    setOpen(false);
    setTyped('');
  };
  const choose = (slug: string) => {
    close();
    router.push(samePlace(session, path, slug) as Href);
  };
  const found = withName(session.clients, typed);
  return (
    <>
      <Pressable
        role="button"
        aria-label={`Client: ${client.name}. Change`}
        aria-haspopup="dialog"
        aria-expanded={open}
        onPress={() => setOpen(true)}
        style={whenHovered((hovered) => ({
          minHeight: touch,
          justifyContent: 'center',
          borderRadius: 6,
          backgroundColor: hovered ? colors.inset : undefined,
        }))}
      >
        <View style={{ flexDirection: 'row', alignItems: 'center', gap: 4, ...style }}>
          <Words kind="smallStrong" numberOfLines={2} style={{ flexShrink: 1 }}>
            {client.name}
          </Words>
          <Icon name="down" size={16} color="quiet" />
        </View>
      </Pressable>
      <Dialog title="Clients" open={open} onClose={close}>
        <View style={{ paddingHorizontal: 12, gap: 4 }}>
          {session.clients.length >= SEARCHED_FROM && (
            <Field
              label="Find a client"
              hideLabel
              placeholder="Find a client"
              autoFocus
              value={typed}
              onChangeText={setTyped}
              onSubmitEditing={() => found[0] && choose(found[0].slug)}
            />
          )}
          {found.map((each) => (
            <View key={each.slug} style={{ flexDirection: 'row', alignItems: 'center' }}>
              <Pressable
                role="button"
                aria-pressed={each.slug === client.slug}
                onPress={() => choose(each.slug)}
                style={whenHovered((hovered) => ({
                  minHeight: 52,
                  justifyContent: 'center',
                  paddingHorizontal: 12,
                  borderRadius: 6,
                  flex: 1,
                  backgroundColor: hovered || each.slug === client.slug ? colors.inset : undefined,
                }))}
              >
                <Words kind={each.slug === client.slug ? 'strong' : 'text'}>{each.name}</Words>
                <View style={{ flexDirection: 'row' }}>
                  {each.failingLines > 0 && <StateShape tone="failing" />}
                  <Words kind="small" color={each.failingLines > 0 ? 'red' : 'quiet'}>
                    {clientWords(each)}
                  </Words>
                </View>
              </Pressable>
              {session.clients.length >= SEARCHED_FROM && <PinButton client={each} />}
            </View>
          ))}
          {found.length === 0 && <NoneFound sought={typed} />}
        </View>
      </Dialog>
    </>
  );
}

/** Puts a client first in one's own list, or back. */
function PinButton({ client: { id, name, pinned } }: { client: ClientSummary }) {
  const { mutate } = useSWRConfig();
  const { act, busy } = useAct(() => mutate('/session'));
  return (
    <IconButton
      icon={pinned ? 'unpin' : 'pin'}
      color={pinned ? 'ink' : 'quiet'}
      label={pinned ? `Unpin ${name}` : `Pin ${name}`}
      disabled={busy}
      onPress={() => void act(() => ask('PUT', '/account/pins', { client: id, on: !pinned }))}
    />
  );
}
