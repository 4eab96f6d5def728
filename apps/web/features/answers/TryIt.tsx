import { useRef, useState } from 'react';
import { View, type TextInput } from 'react-native';
import type { AnswerView } from '@dart-loop/contract/answers';
import { CHANNEL_KINDS, type ChannelKind } from '@dart-loop/core/channels/channelKind';
import { CHANNEL_NAMES } from '@dart-loop/core/channels/names';
import { Choice } from '../../ui/Choice';
import { Field } from '../../ui/Field';
import { Refused } from '../../ui/parts';
import { ActionButton } from '../../ui/press';
import { TickRow } from '../../ui/rows';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { useClientModel } from './model/ClientModel';
import { Tried } from './Tried';
import { sourcesPath } from './useSources';

/** What was asked in one message, and what became of it. */
interface Turn {
  at: number;
  message: string;
  answers: AnswerView[];
}

/** Asks the sources as a customer would on a channel; nobody gets a message. */
export function TryIt({ client }: { client: string }) {
  const { colors } = useTheme();
  const [channel, setChannel] = useState<ChannelKind>('telegram');
  const [message, setMessage] = useState('');
  const [turns, setTurns] = useState<Turn[]>([]);
  const [withModel, setWithModel] = useState(false);
  const hasModel = (useClientModel(client).data?.uses ?? 'none') !== 'none';
  const { act, busy, problem } = useAct();
  const field = useRef<TextInput>(null);
  const send = () =>
    act(async () => {
      const asked = message.trim();
      if (!asked || busy) return;
      const answers = await ask<AnswerView[]>('POST', `${sourcesPath(client)}/ask`, {
        ...{ message: asked, channel, before: turns[0]?.answers.at(-1)?.question ?? null },
        withModel: hasModel && withModel,
      });
      setTurns((now) => [{ at: (now[0]?.at ?? 0) + 1, message: asked, answers }, ...now]);
      setMessage('');
      field.current?.focus();
    });
  return (
    <View style={{ gap: 12 }}>
      <View role="radiogroup" aria-label="Channel" style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 6 }}>
        {CHANNEL_KINDS.map((each) => (
          <Choice
            key={each}
            words={CHANNEL_NAMES[each].name}
            chosen={each === channel}
            onChoose={() => setChannel(each)}
          />
        ))}
      </View>
      <View style={{ flexDirection: 'row', alignItems: 'flex-end', gap: 8 }}>
        <View style={{ flex: 1 }}>
          <Field
            ref={field}
            label="Ask as a customer"
            value={message}
            onChangeText={setMessage}
            onSubmitEditing={() => void send()}
            placeholder="can i bring my dog?"
            submitBehavior="submit"
          />
        </View>
        <ActionButton title="Ask" busy={busy} disabled={!message.trim()} onPress={() => void send()} />
      </View>
      {hasModel && (
        <TickRow
          label="Ask the model too"
          hint="Where the sources alone are not sure; it costs"
          on={withModel}
          onChange={setWithModel}
        />
      )}
      <Refused problem={problem} />
      <View role="log" aria-label="Asked and answered" style={{ gap: 20 }}>
        {turns.map((turn) => (
          <View key={turn.at} style={{ gap: 8 }}>
            <View
              style={{
                ...{ alignSelf: 'flex-end', maxWidth: '85%', borderRadius: 6 },
                ...{ backgroundColor: colors.ink, paddingHorizontal: 12, paddingVertical: 8 },
              }}
            >
              <Words color="paper">{turn.message}</Words>
            </View>
            {turn.answers.length === 0 && <Words kind="small">There is no question in it.</Words>}
            {turn.answers.map((answer, at) => (
              <Tried key={at} client={client} answer={answer} />
            ))}
          </View>
        ))}
      </View>
    </View>
  );
}
