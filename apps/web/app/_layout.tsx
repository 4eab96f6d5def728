import { Slot, usePathname } from 'expo-router';
import { View } from 'react-native';
import { SWRConfig } from 'swr';
import { get } from '../features/session/api';
import { SignIn } from '../features/session/SignIn';
import { useLive, useSession } from '../features/session/useSession';
import { Shell } from '../features/shell/Shell';
import { Failure, Waiting } from '../ui/parts';
import { ThemeProvider, useTheme } from '../ui/theme';
import { setDisplay } from '../ui/time';

/** What several parts of a screen ask for as it opens, on a slow phone too, is asked for once. */
const ASKED_ONCE_MS = 2_000;

export default function Layout() {
  return (
    <SWRConfig
      value={{
        fetcher: get,
        revalidateOnFocus: true,
        dedupingInterval: ASKED_ONCE_MS,
        keepPreviousData: false,
      }}
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
  // Whoever follows a link that was handed to them is signed in by it.
  const isWelcome = usePathname().startsWith('/welcome/');
  const { locale = null, timeZone = null } = session.data?.account.display ?? {};
  setDisplay(locale, timeZone);
  if (session.data && !isWelcome)
    return (
      // What stands there is written anew where dates are to be written otherwise.
      <Shell key={`${locale} ${timeZone}`} session={session.data}>
        <Slot />
      </Shell>
    );
  return (
    <View role="main" style={{ flex: 1, backgroundColor: colors.paper }}>
      {isWelcome ? (
        <Slot />
      ) : session.data === null ? (
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
