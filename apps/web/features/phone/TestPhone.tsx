import { useLocalSearchParams } from 'expo-router';
import { useCallback, useEffect, useRef, useState } from 'react';
import { Pressable, ScrollView, View } from 'react-native';
import useSWR from 'swr';
import type { LineRow, PhonePage } from '@dart-loop/contract';
import { whenHovered } from '../../ui/hover';
import { Field } from '../../ui/Field';
import { ActionButton, QuietButton, TextLink } from '../../ui/press';
import { ChannelMark, Empty, Failure, Notice, Waiting, usePageTitle } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { clock } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';

/** A stand-in telephone that plays a customer on either channel, through the real webhooks. */
export function TestPhone() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const { data: lines, error, mutate } = useSWR<LineRow[], Error>(`/clients/${client}/lines`);
  const [chosen, choose] = useState<number | null>(null);
  usePageTitle('Test phone');
  const line = lines?.find((each) => each.id === chosen) ?? lines?.[0];
  return (
    <View style={{ flex: 1, alignItems: 'center', padding: 12 }}>
      <View style={{ width: '100%', maxWidth: 460, flex: 1 }}>
        <TextLink href="/more">‹ More</TextLink>
        <Words kind="title">Test phone</Words>
        {error && !lines && <Failure error={error} again={() => void mutate()} />}
        {!lines && !error && <Waiting />}
        {lines?.length === 0 && (
          <Empty
            title="No line to write to"
            words="The test phone plays a customer who writes to one of the client’s lines. Connect one first."
            action={<TextLink href={`/${client}/lines`}>Connect a line</TextLink>}
          />
        )}
        {lines && line && (
          <>
            <View role="radiogroup" aria-label="Line" style={{ flexDirection: 'row', gap: 8, flexWrap: 'wrap', paddingVertical: 4 }}>
              {lines.map((each) => (
                <LineChoice key={each.id} line={each} chosen={each.id === line.id} onChoose={() => choose(each.id)} />
              ))}
            </View>
            <Customer key={line.id} client={client} line={line} />
          </>
        )}
      </View>
    </View>
  );
}

function LineChoice({ line, chosen, onChoose }: { line: LineRow; chosen: boolean; onChoose: () => void }) {
  const { colors } = useTheme();
  return (
    <Pressable
      role="radio"
      aria-checked={chosen}
      onPress={onChoose}
      style={{
        minHeight: 44,
        flexDirection: 'row',
        gap: 6,
        alignItems: 'center',
        paddingHorizontal: 10,
        borderRadius: 6,
        borderWidth: 1,
        borderColor: chosen ? colors.ink : colors.line,
        backgroundColor: chosen ? colors.inset : undefined,
      }}
    >
      <ChannelMark channel={line.channel} />
      <Words kind={chosen ? 'smallStrong' : 'small'} color="ink">
        {line.name}
      </Words>
    </Pressable>
  );
}

/** The phone in the hands of somebody who has never written to the line before; as often as asked, of somebody else. */
function Customer({ client, line }: { client: string; line: LineRow }) {
  const [who, setWho] = useState<string | null>(null);
  const [problem, setProblem] = useState<Error | null>(null);
  const meet = useCallback(() => {
    setProblem(null);
    ask<{ who: string }>('POST', `/clients/${client}/test-phone/somebody`, { line: line.id }).then((met) => setWho(met.who), setProblem);
  }, [client, line.id]);
  useEffect(meet, [meet]);
  if (problem) return <Failure error={problem} again={meet} />;
  return who === null ? <Waiting /> : <Handset key={who} client={client} line={line} who={who} onSomebodyNew={meet} />;
}

function Handset({ client, line, who, onSomebodyNew }: { client: string; line: LineRow; who: string; onSomebodyNew: () => void }) {
  const { colors } = useTheme();
  const [text, setText] = useState('');
  const [problem, setProblem] = useState<Error | null>(null);
  const path = `/clients/${client}/test-phone`;
  const { data, mutate } = useSWR<PhonePage>(`${path}?line=${line.id}&who=${encodeURIComponent(who)}`, { refreshInterval: 1_000 });
  const scroll = useRef<ScrollView>(null);
  const count = data?.messages.length ?? 0;
  useEffect(() => {
    setTimeout(() => scroll.current?.scrollToEnd({ animated: false }), 30);
  }, [count]);
  const act = async (body: object) => {
    setProblem(null);
    try {
      await mutate(await ask<PhonePage>('POST', path, { line: line.id, who, ...body }), { revalidate: false });
    } catch (error) {
      setProblem(error as Error);
    }
  };
  const write = async () => {
    const words = text.trim();
    if (!words) return;
    setText('');
    await act({ do: 'write', name: line.channel === 'telegram' ? 'Mira' : '', text: words });
  };
  const last = data?.messages.findLastIndex((message) => message.from === 'line');
  return (
    <View
      style={{
        flex: 1,
        borderWidth: 2,
        borderColor: colors.ink,
        borderRadius: 22,
        padding: 10,
        minHeight: 280,
        backgroundColor: colors.sheet,
      }}
    >
      <View style={{ flexDirection: 'row', justifyContent: 'space-between', alignItems: 'center', paddingHorizontal: 6 }}>
        <Words kind="code">{line.channel === 'sms' ? who : `Mira, ${who}`}</Words>
        <QuietButton title="Be somebody new" onPress={onSomebodyNew} />
      </View>
      <ScrollView
        ref={scroll}
        style={{ flex: 1 }}
        contentContainerStyle={{ padding: 6, gap: 8 }}
        tabIndex={0}
        aria-label="Messages on the phone"
      >
        <View role="log" aria-live="polite" style={{ gap: 8 }}>
          {count === 0 && (
            <Words color="quiet">{`Write to ${line.name} as a customer would. What you write reaches the line’s webhook; what comes back is what the channel was sent.`}</Words>
          )}
          {data?.messages.map((message, index) => (
            <View key={message.id} style={{ alignSelf: message.from === 'person' ? 'flex-end' : 'flex-start', maxWidth: '88%', gap: 4 }}>
              <View
                style={{
                  backgroundColor: message.from === 'person' ? colors.ink : colors.inset,
                  borderRadius: 6,
                  paddingHorizontal: 12,
                  paddingVertical: 8,
                }}
              >
                <Words color={message.from === 'person' ? 'paper' : 'ink'}>{message.text}</Words>
              </View>
              {message.buttons.map((button) => (
                <Pressable
                  key={button.data}
                  role="button"
                  onPress={() => void act({ do: 'tap', messageId: message.id, data: button.data })}
                  style={whenHovered((hovered) => ({
                    minHeight: 44,
                    justifyContent: 'center',
                    alignItems: 'center',
                    borderWidth: 1,
                    borderColor: colors.teal,
                    borderRadius: 6,
                    paddingHorizontal: 12,
                    backgroundColor: hovered ? colors.inset : undefined,
                    opacity: index === last ? 1 : 0.8,
                  }))}
                >
                  <Words kind="strong" color="teal">
                    {button.text}
                  </Words>
                </Pressable>
              ))}
              <Words kind="code" style={{ alignSelf: message.from === 'person' ? 'flex-end' : 'flex-start' }}>
                {clock(message.at)}
              </Words>
            </View>
          ))}
        </View>
      </ScrollView>
      {problem && <Notice tone="failing">{problem.message}</Notice>}
      <View style={{ flexDirection: 'row', gap: 8, alignItems: 'flex-end' }}>
        <View style={{ flex: 1 }}>
          <Field
            label="Write as the customer"
            hideLabel
            placeholder="Write as the customer"
            value={text}
            onChangeText={setText}
            onSubmitEditing={() => void write()}
            submitBehavior="submit"
          />
        </View>
        <ActionButton title="Send" onPress={() => void write()} />
      </View>
    </View>
  );
}
