import { router, useLocalSearchParams } from 'expo-router';
import { View } from 'react-native';
import useSWR from 'swr';
import type { DestinationRow } from '@dart-loop/contract';
import { PlaceLink, QuietButton } from '../../ui/press';
import { Page } from '../../ui/Page';
import { Empty, Failure, StateLine, Waiting } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { destinationState, shelfWords, whereWords } from './stateWords';

/** Where a client's people go: each destination with how it is. */
export function Sync() {
  const { colors } = useTheme();
  const { client } = useLocalSearchParams<{ client: string }>();
  const { data, error, mutate } = useSWR<DestinationRow[], Error>(`/clients/${client}/destinations`);
  const make = () => router.push(`/${client}/sync/new`);
  return (
    <Page
      title="Sync"
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      actions={
        data && data.length > 0 ? <QuietButton outlined title="Add destination" onPress={make} /> : undefined
      }
      about="The client’s own systems, which receive every change to people within seconds."
    >
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data?.length === 0 && (
        <Empty
          title="No destination yet"
          words="A CRM, a spreadsheet or a webhook that receives changes to fields, tags and lists. You can test it with a real person before switching it on."
          action={<QuietButton outlined title="Add a destination" onPress={make} />}
        />
      )}
      <View role="list" aria-label="Destinations" style={{ marginTop: 8 }}>
        {data?.map((row) => {
          const { tone, words } = destinationState(row);
          return (
            <View key={row.id} role="listitem">
              <PlaceLink
                href={`/${client}/sync/${row.id}`}
                style={{
                  borderTopWidth: 1,
                  borderColor: colors.line,
                  borderRadius: 0,
                  paddingVertical: 12,
                  gap: 2,
                }}
              >
                <View
                  style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'baseline', columnGap: 10 }}
                >
                  <Words kind="strong" color="teal">
                    {row.name}
                  </Words>
                  <Words kind="small">{whereWords(row)}</Words>
                </View>
                <StateLine tone={tone}>{words}</StateLine>
                {row.shelf > 0 && <StateLine tone="warning">{shelfWords(row.shelf)}</StateLine>}
              </PlaceLink>
            </View>
          );
        })}
      </View>
    </Page>
  );
}
