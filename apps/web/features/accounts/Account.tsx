import { router } from 'expo-router';
import { View } from 'react-native';
import { useSWRConfig } from 'swr';
import { Page } from '../../ui/Page';
import { QuietButton } from '../../ui/press';
import { Group, PickRow } from '../../ui/rows';
import { useTheme } from '../../ui/theme';
import { ask } from '../session/api';
import { useSession, useLeaving } from '../session/useSession';
import { OwnDisplay } from './OwnDisplay';
import { OwnFactor } from './OwnFactor';
import { OwnName, OwnPassword } from './OwnForms';
import { OwnSessions } from './OwnSessions';

/** Whoever is signed in: how the application looks to them, their name, password and sessions. */
export function Account() {
  const { light, setLight } = useTheme();
  const session = useSession().data;
  // What the page still asks for would be nobody's.
  const leaving = useLeaving('/account');
  const { mutate } = useSWRConfig();
  if (!session) return null;
  const { account } = session;
  const signOut = () =>
    leaving(async () => {
      await ask('DELETE', '/session');
      // First the screens go, then what they showed is forgotten.
      router.replace('/');
      await mutate('/session', null, { revalidate: false });
      await mutate((key) => key !== '/session', undefined, { revalidate: false });
    });
  return (
    <Page
      title={account.name}
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      about={`${account.email} · ${account.role} at ${account.agency}`}
      width="form"
    >
      <Group title="Appearance">
        <PickRow
          label="Colours"
          value={light}
          options={[
            ['as the device', 'Same as the device'],
            ['light', 'Light'],
            ['dark', 'Dark'],
          ]}
          onChange={setLight}
        />
        <OwnDisplay {...account.display} />
      </Group>
      <View style={{ flexDirection: 'row', marginVertical: 16 }}>
        <QuietButton outlined title="Sign out" onPress={() => void signOut()} />
      </View>
      <View style={{ gap: 24 }}>
        <OwnName name={account.name} />
        <OwnPassword />
        <OwnFactor />
        <OwnSessions />
      </View>
    </Page>
  );
}
