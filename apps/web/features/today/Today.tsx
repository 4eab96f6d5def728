import { View } from 'react-native';
import useSWR from 'swr';
import type { TodayPage } from '@dart-loop/contract';
import { PlaceLink, TextLink } from '../../ui/press';
import { Page } from '../../ui/Page';
import { counted } from '@dart-loop/core/language/counted';
import { ChannelMark, Empty, Failure, StateShape, Waiting } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { grouped, dateWords } from '../../ui/time';
import { useMay, useSession } from '../session/useSession';

/** Everything across all clients that wants attention now, worst first, and a quiet strip for the day. */
export function Today() {
  const { colors } = useTheme();
  const { data, error, mutate } = useSWR<TodayPage, Error>('/today');
  const date = dateWords(new Date(), { weekday: 'long', day: 'numeric', month: 'long' });
  const session = useSession().data;
  const isOwner = useMay()('manage clients');
  const count = data?.attention.length ?? 0;
  return (
    <Page
      title="Today"
      about={`${date}${data ? ` · ${count === 0 ? 'nothing needs attention' : `${counted(count, 'thing')} to do, most urgent first`}` : ''}`}
    >
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {session?.clients.length === 0 && (
        <Empty
          title="No client yet"
          words={
            isOwner
              ? 'Begin with the first client: its brief, a line that people write to, and a loop that answers them.'
              : 'You have been given no client yet. Ask an owner of the agency.'
          }
          action={isOwner && <TextLink href="/clients">Add the first client</TextLink>}
        />
      )}
      {data?.attention.length === 0 && session?.clients.length !== 0 && (
        <Empty
          title="All quiet"
          words="Failing lines, conversations that wait for a person and messages that could not be sent are shown here, each with what to do."
        />
      )}
      <View role="list" aria-label="Needs attention">
        {data?.attention.map((each, index) => (
          <View
            key={each.id}
            role="listitem"
            style={{ borderTopWidth: 1, borderColor: colors.line, paddingTop: 14, paddingBottom: 6 }}
          >
            <View style={{ flexDirection: 'row', alignItems: 'center' }}>
              <StateShape tone={each.weight} />
              <Words kind="strong" style={{ marginRight: 6 }}>
                {each.client.name}
              </Words>
              {each.channel && <ChannelMark channel={each.channel} />}
            </View>
            <Words style={{ marginLeft: 18 }}>{each.words}</Words>
            <PlaceLink href={each.action.href} style={{ alignSelf: 'flex-start', marginLeft: 18 }}>
              <Words kind="strong" color={index === 0 ? 'vermilion' : 'teal'}>
                {each.action.words}
              </Words>
            </PlaceLink>
          </View>
        ))}
      </View>
      {data && (
        <View
          style={{
            flexDirection: 'row',
            gap: 16,
            borderTopWidth: 1,
            borderColor: colors.line,
            paddingTop: 18,
            marginTop: 8,
          }}
        >
          <Figure
            value={data.day.conversations}
            words="conversations"
            before={data.day.conversationsYesterday}
          />
          <Figure value={data.day.messages} words="messages" before={data.day.messagesYesterday} />
          <Figure value={data.day.smsParts} words="SMS parts" before={data.day.smsPartsYesterday} />
        </View>
      )}
    </Page>
  );
}

function Figure({ value, words, before }: { value: number; words: string; before: number }) {
  return (
    <View style={{ flex: 1, maxWidth: 220 }}>
      <Words kind="figure">{grouped(value)}</Words>
      <Words kind="small" color="ink">
        {words}
      </Words>
      <Words kind="small">{`${grouped(before)} yesterday`}</Words>
    </View>
  );
}
