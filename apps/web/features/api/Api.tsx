import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import { useMay } from '../session/useSession';
import { Page } from '../../ui/Page';

import { Keys } from './Keys';
import { TryOut } from './TryOut';

/** What the client's own systems call: their keys, and every operation, to be tried with one of them. */
export function Api() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const may = useMay();
  const [key, setKey] = useState('');
  return (
    <Page
      title="API"
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      about="Lets the client’s own systems add and change people, start loops and read events. OpenAPI document: /v1/openapi.json"
    >
      <View style={{ gap: 24, marginTop: 12 }}>
        <Keys client={client} canChange={may('change sync')} onMade={setKey} />
        <TryOut token={key} onToken={setKey} />
      </View>
    </Page>
  );
}
