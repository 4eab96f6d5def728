import { router } from 'expo-router';
import { Pressable, View } from 'react-native';
import { useSWRConfig } from 'swr';
import { may } from '@dart-loop/contract/roles';
import { PlaceLink, QuietButton } from '../../ui/press';
import { Page } from '../../ui/parts';
import { useTheme, type Light } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useSession } from '../session/useSession';
import { useCurrentClient } from '../shell/client';

const LIGHTS: Light[] = ['as the device', 'light', 'dark'];

export function More() {
  const { colors, light, setLight } = useTheme();
  const session = useSession().data;
  const { mutate } = useSWRConfig();
  const client = useCurrentClient(session);
  if (!session) return null;
  const role = session.account.role;
  const signOut = async () => {
    await ask('DELETE', '/session');
    // First the screens go, then what they showed is forgotten.
    router.replace('/');
    await mutate('/session', null, { revalidate: false });
    await mutate((key) => key !== '/session', undefined, { revalidate: false });
  };
  const places = client
    ? [
        ...(may(role, 'see lines')
          ? [
              {
                href: `/${client.slug}/lines`,
                words: 'Lines',
                more: 'The bots and numbers that people write to, and whether they work',
              },
              {
                href: `/${client.slug}/webhooks`,
                words: 'Webhooks',
                more: 'What other systems call, and the secret they know our calls by',
              },
            ]
          : []),
        ...(may(role, 'see bookings')
          ? [
              {
                href: `/${client.slug}/bookings`,
                words: 'Bookings',
                more: 'Who has booked what, and the calendars that loops book in',
              },
            ]
          : []),
        ...(may(role, 'see sync')
          ? [
              {
                href: `/${client.slug}/sync`,
                words: 'Sync',
                more: 'The client’s own systems that hear of every change, and what went out',
              },
              {
                href: `/${client.slug}/api`,
                words: 'API',
                more: 'The keys of the client’s own systems, and what they can call',
              },
            ]
          : []),
        ...(may(role, 'manage people')
          ? [
              {
                href: `/${client.slug}/fields`,
                words: 'Fields',
                more: 'What is known of people, its types, and the agency’s shared set',
              },
              {
                href: `/${client.slug}/lists`,
                words: 'Lists',
                more: 'Memberships, what people agree to, and how',
              },
              {
                href: `/${client.slug}/erasures`,
                words: 'Deletion receipts',
                more: 'Who was erased when, by whom and why, with nothing about them',
              },
              {
                href: `/${client.slug}/sending`,
                words: 'Sending and keeping',
                more: 'Quiet hours, how often, who becomes one, how long what is kept',
              },
            ]
          : []),
        ...(session.testPhone && may(role, 'use the test phone')
          ? [
              {
                href: `/${client.slug}/test-phone`,
                words: 'Test phone',
                more: 'Play a customer on any line, through the real webhooks',
              },
            ]
          : []),
      ]
    : [];
  return (
    <Page
      title="More"
      below={client && places.length > 0 ? <Words kind="small">{client.name}</Words> : undefined}
    >
      <View style={{ marginTop: 12 }}>
        {places.map((place) => (
          <PlaceLink
            key={place.href}
            href={place.href}
            style={{
              borderTopWidth: 1,
              borderColor: colors.line,
              borderRadius: 0,
              paddingVertical: 12,
              paddingHorizontal: 8,
            }}
          >
            <Words kind="strong" color="teal">
              {place.words}
            </Words>
            <Words kind="small">{place.more}</Words>
          </PlaceLink>
        ))}
        <View style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 16, gap: 8 }}>
          <Words kind="heading">Light</Words>
          <View
            role="radiogroup"
            aria-label="Light"
            style={{ flexDirection: 'row', gap: 8, flexWrap: 'wrap' }}
          >
            {LIGHTS.map((each) => (
              <Pressable
                key={each}
                role="radio"
                aria-checked={each === light}
                onPress={() => setLight(each)}
                style={{
                  minHeight: 44,
                  justifyContent: 'center',
                  paddingHorizontal: 14,
                  borderRadius: 6,
                  borderWidth: 1,
                  borderColor: each === light ? colors.ink : colors.line,
                  backgroundColor: each === light ? colors.inset : undefined,
                }}
              >
                <Words kind={each === light ? 'strong' : 'text'}>
                  {each === 'as the device' ? 'As the device' : each === 'light' ? 'Light' : 'Dark'}
                </Words>
              </Pressable>
            ))}
          </View>
        </View>
        <View
          style={{
            borderTopWidth: 1,
            borderColor: colors.line,
            paddingVertical: 16,
            gap: 4,
            alignItems: 'flex-start',
          }}
        >
          <Words kind="heading">{session.account.name}</Words>
          <Words kind="small">{`${role} at ${session.account.agency}, ${session.account.email}`}</Words>
          <QuietButton outlined title="Sign out" onPress={() => void signOut()} />
        </View>
      </View>
    </Page>
  );
}
