import { useEffect, useRef, useState } from 'react';
import { ScrollView, View } from 'react-native';
import type { LineRow } from '@dart-loop/contract';
import { Choice } from '../../ui/Choice';
import { Field } from '../../ui/Field';
import { Menu, type MenuItem } from '../../ui/Menu';
import { ActionButton } from '../../ui/press';
import { Notice, Refused } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { Bubble } from './Bubble';
import { useHandset, type Act, type Customer } from './useHandset';
import { Wall } from './Wall';

/** One person's phone: their messages with the line, and its wall of posts, ads and links. */
export function Handset({ client, line, customer }: { client: string; line: LineRow; customer: Customer }) {
  const { colors, wide } = useTheme();
  const { data, problem, act } = useHandset(client, line, customer);
  const [face, setFace] = useState<'messages' | 'wall'>('messages');
  const { who, name } = customer;
  const wall = data && (
    <Wall line={line} who={who} page={data} act={act} onDone={() => setFace('messages')} />
  );
  return (
    <View style={{ flex: 1, flexDirection: 'row', gap: 16, minHeight: 280 }}>
      <View
        style={{
          flex: 1,
          borderWidth: 2,
          borderColor: colors.ink,
          borderRadius: 22,
          padding: 10,
          backgroundColor: colors.sheet,
        }}
      >
        <View
          style={{
            flexDirection: 'row',
            justifyContent: 'space-between',
            alignItems: 'center',
            paddingHorizontal: 6,
            flexWrap: 'wrap',
          }}
        >
          <Words kind="code">{line.channel === 'sms' ? who : `${name}, ${who}`}</Words>
          {!wide && (
            <View role="radiogroup" aria-label="Face" style={{ flexDirection: 'row', gap: 4 }}>
              <Choice words="Messages" chosen={face === 'messages'} onChoose={() => setFace('messages')} />
              <Choice words="Wall" chosen={face === 'wall'} onChoose={() => setFace('wall')} />
            </View>
          )}
        </View>
        {face === 'wall' && !wide ? (
          <ScrollView style={{ flex: 1 }} contentContainerStyle={{ padding: 6 }}>
            {wall}
          </ScrollView>
        ) : (
          <Thread line={line} data={data} act={act} />
        )}
        <Refused problem={problem?.message} />
      </View>
      {wide && (
        <ScrollView style={{ flex: 1 }} contentContainerStyle={{ paddingBottom: 24 }}>
          {wall}
        </ScrollView>
      )}
    </View>
  );
}

function Thread({
  line,
  data,
  act,
}: {
  line: LineRow;
  data: ReturnType<typeof useHandset>['data'];
  act: Act;
}) {
  const [text, setText] = useState('');
  const scroll = useRef<ScrollView>(null);
  const count = data?.messages.length ?? 0;
  useEffect(() => {
    setTimeout(() => scroll.current?.scrollToEnd({ animated: false }), 30);
  }, [count]);
  const write = async () => {
    const words = text.trim();
    if (!words) return;
    setText('');
    if (!(await act({ do: 'write', text: words }))) setText(words);
  };
  return (
    <>
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
          {data?.greeting && <Words style={{ textAlign: 'center' }}>{data.greeting}</Words>}
          {data?.messages.map((message) => (
            <Bubble
              key={message.id}
              message={message}
              onTap={(ref) => void act({ do: 'tap', messageId: message.id, data: ref })}
            />
          ))}
        </View>
      </ScrollView>
      {data?.blocked && (
        <Notice tone="warning">{`${line.name} is blocked: nothing reaches this person until they unblock it.`}</Notice>
      )}
      <View style={{ flexDirection: 'row', gap: 8, alignItems: 'flex-end' }}>
        <OtherThings line={line} blocked={data?.blocked ?? false} act={act} />
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
    </>
  );
}

/** What a person can send besides words, and shutting the line out. */
function OtherThings({
  line: { channel, name },
  blocked,
  act,
}: {
  line: LineRow;
  blocked: boolean;
  act: Act;
}) {
  const send = (what: 'picture' | 'voice note' | 'place', words: string): MenuItem => ({
    key: what,
    words,
    onChoose: () => void act({ do: 'send', what }),
  });
  const items = [
    send('picture', 'Send a picture'),
    ...(channel === 'sms'
      ? []
      : [
          send('voice note', 'Send a voice note'),
          send('place', 'Send a place'),
          {
            key: 'block',
            words: blocked ? `Unblock ${name}` : `Block ${name}`,
            tone: blocked ? ('ink' as const) : ('red' as const),
            onChoose: () => void act({ do: 'block', is: !blocked }),
          },
        ]),
  ];
  return (
    <Menu label="Other actions" title="Other actions" items={items} compact>
      <View style={{ width: 36, alignItems: 'center' }}>
        <Words aria-hidden kind="strong" color="teal" style={{ fontSize: 22 }}>
          +
        </Words>
      </View>
    </Menu>
  );
}
