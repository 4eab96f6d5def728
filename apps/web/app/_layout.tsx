import { useFonts } from 'expo-font';
import { Slot } from 'expo-router';
import { View } from 'react-native';
import { SWRConfig } from 'swr';
import { get } from '../features/session/api';
import { SignIn } from '../features/session/SignIn';
import { useLive, useSession } from '../features/session/useSession';
import { Shell } from '../features/shell/Shell';
import { Failure, Waiting } from '../ui/parts';
import { FONTS, ThemeProvider, useTheme } from '../ui/theme';

export default function Layout() {
  // The page does not wait for them: words first, in the device's font for a moment.
  useFonts({
    [FONTS.text]: require('@expo-google-fonts/atkinson-hyperlegible/400Regular/AtkinsonHyperlegible_400Regular.ttf'),
    [FONTS.bold]: require('@expo-google-fonts/atkinson-hyperlegible/700Bold/AtkinsonHyperlegible_700Bold.ttf'),
    [FONTS.italic]: require('@expo-google-fonts/atkinson-hyperlegible/400Regular_Italic/AtkinsonHyperlegible_400Regular_Italic.ttf'),
    [FONTS.heading]: require('@expo-google-fonts/bricolage-grotesque/600SemiBold/BricolageGrotesque_600SemiBold.ttf'),
    [FONTS.mono]: require('@expo-google-fonts/ibm-plex-mono/400Regular/IBMPlexMono_400Regular.ttf'),
  });
  return (
    <SWRConfig
      value={{ fetcher: get, revalidateOnFocus: true, dedupingInterval: 300, keepPreviousData: false }}
    >
      <ThemeProvider>
        <Gate />
      </ThemeProvider>
    </SWRConfig>
  );
}

/** Everything needs a session; without one, signing in stands at whatever address was asked for. */
function Gate() {
  const { colors } = useTheme();
  const session = useSession();
  useLive(Boolean(session.data));
  if (session.data)
    return (
      <Shell session={session.data}>
        <Slot />
      </Shell>
    );
  return (
    <View role="main" style={{ flex: 1, backgroundColor: colors.paper }}>
      {session.data === null ? (
        <SignIn />
      ) : (
        <View style={{ padding: 24 }}>
          {session.error ? (
            <Failure error={session.error} again={() => void session.mutate()} />
          ) : (
            <Waiting words="Opening Dart Loop" />
          )}
        </View>
      )}
    </View>
  );
}
