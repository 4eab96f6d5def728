import { useLocalSearchParams } from 'expo-router';
import { View } from 'react-native';
import useSWR from 'swr';
import type { By, PersonPage } from '@dart-loop/contract';
import { may } from '@dart-loop/contract/roles';
import { TextLink, PlaceLink } from '../../ui/press';
import { ChannelMark, Empty, Failure, Page, Waiting } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { exact, whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { Inset } from '../inbox/PersonSide';
import { useSession } from '../session/useSession';

/** One person: facts with who set them and when, tags, identities, what changed, and their runs. */
export function Person() {
  const { colors } = useTheme();
  const { client, person } = useLocalSearchParams<{ client: string; person: string }>();
  const { data, error, mutate } = useSWR<PersonPage, Error>(`/clients/${client}/people/${person}`);
  const session = useSession();
  const seesLoops = session.data ? may(session.data.account.role, 'see loops') : false;
  const source = (by: By | null, at: string | null) => (by && at ? <Provenance by={by} at={at} client={client} link={seesLoops} /> : null);
  return (
    <Page title={data?.name ?? 'Person'} above={<TextLink href={`/${client}/people`}>‹ People</TextLink>}>
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data && (
        <View style={{ gap: 28, marginTop: 4 }}>
          <Words
            kind="small"
            {...({ title: exact(data.createdAt) } as object)}
          >{`First written ${whenWords(data.createdAt)}, last ${whenWords(data.lastSeenAt)}.`}</Words>
          <View>
            <Words kind="heading">Facts</Words>
            {data.facts.length === 0 && (
              <Empty
                title="Nothing known yet"
                words="Answers to a loop’s questions stand here as typed values, with who set them and when."
              />
            )}
            {data.facts.map((fact) => (
              <View key={fact.key} style={{ borderBottomWidth: 1, borderColor: colors.line, paddingVertical: 8 }}>
                <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 12, justifyContent: 'space-between' }}>
                  <Words color="quiet">{fact.name}</Words>
                  <Words kind="strong" style={{ flexShrink: 1 }}>
                    {fact.words}
                  </Words>
                </View>
                <View style={{ flexDirection: 'row', flexWrap: 'wrap', columnGap: 8, justifyContent: 'space-between' }}>
                  {source(fact.by, fact.at)}
                  <Words kind="small">{fact.type}</Words>
                </View>
              </View>
            ))}
          </View>
          <View style={{ gap: 8 }}>
            <Words kind="heading">Tags</Words>
            {data.tags.length === 0 && <Words color="quiet">None.</Words>}
            {data.tags.map((tag) => (
              <View key={tag.tag} style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 10, alignItems: 'center' }}>
                <Inset>{tag.tag}</Inset>
                {source(tag.by, tag.at)}
              </View>
            ))}
          </View>
          {data.lists.length > 0 && (
            <View style={{ gap: 8 }}>
              <Words kind="heading">Lists</Words>
              {data.lists.map((list) => (
                <View key={list.list} style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 10, alignItems: 'center' }}>
                  <Inset>{list.list}</Inset>
                  {source(list.by, list.at)}
                </View>
              ))}
            </View>
          )}
          <View>
            <Words kind="heading">Identities</Words>
            {data.identities.map((identity) => (
              <PlaceLink
                key={identity.id}
                href={`/inbox/${client}/${identity.id}`}
                style={{ borderBottomWidth: 1, borderColor: colors.line, borderRadius: 0, paddingVertical: 8 }}
              >
                <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8, alignItems: 'center' }}>
                  <ChannelMark channel={identity.channel} />
                  <Words kind="code" color="ink">
                    {identity.handle ?? identity.address}
                  </Words>
                  <Words kind="small">{`on ${identity.line}, ${whenWords(identity.since)}`}</Words>
                  {identity.optedOut && (
                    <Words kind="smallStrong" color="ochre">
                      ◆ opted out
                    </Words>
                  )}
                  <View style={{ flex: 1 }} />
                  <Words kind="smallStrong" color="teal">
                    Read the conversation
                  </Words>
                </View>
              </PlaceLink>
            ))}
          </View>
          {data.history.length > 0 && (
            <View>
              <Words kind="heading">What changed</Words>
              {data.history.map((change, index) => (
                <View key={index} style={{ borderBottomWidth: 1, borderColor: colors.line, paddingVertical: 8 }}>
                  <Words kind="small" color="ink">
                    {change.words}
                  </Words>
                  {source(change.by, change.at)}
                </View>
              ))}
            </View>
          )}
          <View>
            <Words kind="heading">Runs</Words>
            {data.runs.length === 0 && <Words color="quiet">No loop has started for this person yet.</Words>}
            {data.runs.map((run) => (
              <View
                key={run.id}
                style={{
                  borderBottomWidth: 1,
                  borderColor: colors.line,
                  paddingVertical: 8,
                  flexDirection: 'row',
                  flexWrap: 'wrap',
                  gap: 10,
                }}
              >
                <Words kind="strong">{run.loop}</Words>
                <Words kind="small">{`version ${run.version}, ${run.status}, began ${whenWords(run.startedAt)}`}</Words>
              </View>
            ))}
          </View>
        </View>
      )}
    </Page>
  );
}

function Provenance({ by, at, client, link }: { by: By; at: string; client: string; link: boolean }) {
  const words = (
    <Words kind="small" {...({ title: exact(at) } as object)}>
      {'set by '}
      <Words kind="smallStrong" color={link && by.loopId ? 'teal' : 'quiet'}>
        {by.words}
      </Words>
      {`, ${whenWords(at)}`}
    </Words>
  );
  return link && by.loopId ? (
    <PlaceLink href={`/${client}/loops/${by.loopId}#${by.stepId ?? ''}`} style={{ minHeight: 24 }}>
      {words}
    </PlaceLink>
  ) : (
    words
  );
}
