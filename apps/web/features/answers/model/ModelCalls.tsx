import { View } from 'react-native';
import type { ModelCall } from '@dart-loop/contract/model';
import { grouped, whenWords } from '../../../ui/time';
import { PlaceLink } from '../../../ui/press';
import { useTheme } from '../../../ui/theme';
import { Words } from '../../../ui/Words';
import { costWords } from './modelForm';

const CAME: Record<ModelCall['came'], string> = {
  asked: 'no answer is known of yet',
  said: 'said',
  'not known': 'said that it is not known',
  refused: 'not said',
  failed: 'did not answer',
};

/** What the model was asked last, what it said, and what came of it. */
export function ModelCalls({ calls, client }: { calls: ModelCall[]; client: string }) {
  const { colors } = useTheme();
  if (calls.length === 0) return null;
  return (
    <View style={{ gap: 4 }}>
      <Words kind="heading" role="heading" aria-level={2}>
        Asked last
      </Words>
      <View role="list" aria-label="Asked last">
        {calls.map((call) => (
          <View
            key={call.id}
            role="listitem"
            style={{ gap: 2, borderTopWidth: 1, borderColor: colors.line, paddingVertical: 10 }}
          >
            <Words>{`“${call.question}”`}</Words>
            <Words kind="small" color={call.came === 'failed' ? 'red' : 'ink'}>
              {`${call.model}: ${CAME[call.came]}${call.why ? `, as ${call.why}` : ''}`}
            </Words>
            {(call.said ?? call.answer) !== null && call.came !== 'not known' && (
              <Words kind="small" numberOfLines={3}>
                {call.said ?? call.answer}
              </Words>
            )}
            <Words kind="small">
              {[
                whenWords(call.at),
                ...(call.tokens === null ? [] : [`${grouped(call.tokens)} tokens`]),
                costWords(call.cost, call.currency),
                ...(call.tookMs === null ? [] : [`${(call.tookMs / 1_000).toFixed(1)} s`]),
              ].join(' · ')}
            </Words>
            {call.conversationId !== null && (
              <PlaceLink
                href={`/inbox/${client}/${call.conversationId}`}
                label={`Conversation of “${call.question}”`}
                style={{ alignSelf: 'flex-start', paddingHorizontal: 0 }}
              >
                <Words kind="small" style={{ textDecorationLine: 'underline' }}>
                  Conversation
                </Words>
              </PlaceLink>
            )}
          </View>
        ))}
      </View>
    </View>
  );
}
