import { useState } from 'react';
import { View } from 'react-native';
import type { ConversationAct, ConversationPage } from '@dart-loop/contract';
import { Field } from '../../ui/Field';
import { ActionButton } from '../../ui/press';
import { Refused } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { Drafts } from './Drafts';

/** Where one writes to the person. Writing steps in: the loop then holds still. */
export function AnswerBar({
  client,
  data,
  me,
  busy,
  problem,
  act,
}: {
  client: string;
  data: ConversationPage;
  me: string;
  busy: boolean;
  problem: Error | null;
  act: (what: ConversationAct) => Promise<boolean>;
}) {
  const { colors } = useTheme();
  const [text, setText] = useState('');
  const send = async () => {
    if (text.trim() === '' || busy) return;
    // What was written stays until it is taken.
    if (await act({ do: 'write', text: text.trim() })) setText('');
  };
  if (data.optedOut)
    return (
      <View style={{ padding: 16, borderTopWidth: 1, borderColor: colors.line }}>
        <Words color="quiet">
          The person has opted out of this line. Nothing is sent until they write START.
        </Words>
      </View>
    );
  const mine = data.held?.by === me;
  const hint = mine
    ? null
    : data.held?.by
      ? `${data.held.by} has the conversation. Writing takes it over.`
      : data.held
        ? 'Nobody has taken this conversation. It is yours when you write.'
        : data.loop
          ? `If you write, you step in and ${data.loop.name} pauses for this person.`
          : 'If you write, you step in: no loop answers until you hand back.';
  return (
    <View
      style={{
        padding: 12,
        gap: 8,
        borderTopWidth: 1,
        borderColor: colors.line,
        maxWidth: 664,
        width: '100%',
        alignSelf: 'center',
      }}
    >
      <Refused problem={problem?.message} />
      <Drafts
        client={client}
        data={data}
        onUse={(draft) => setText((before) => [before.trim(), draft].filter(Boolean).join('\n'))}
      />
      {hint !== null && <Words kind="small">{hint}</Words>}
      <View style={{ flexDirection: 'row', gap: 8, alignItems: 'flex-end' }}>
        <View style={{ flex: 1 }}>
          <Field
            label={`Write to ${data.who}`}
            hideLabel
            placeholder={`Write to ${data.who}`}
            value={text}
            onChangeText={setText}
            multiline
            maxLength={4_096}
            numberOfLines={2}
            onKeyPress={(event) => {
              const key = event.nativeEvent as unknown as KeyboardEvent;
              if (key.key === 'Enter' && (key.ctrlKey || key.metaKey)) void send();
            }}
          />
        </View>
        <ActionButton title="Send" busy={busy} disabled={text.trim() === ''} onPress={() => void send()} />
      </View>
    </View>
  );
}
