import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import type { UnansweredGroup } from '@dart-loop/contract/answers';
import { counted } from '@dart-loop/core/language/counted';
import { Empty, Failure, Refused, Waiting } from '../../ui/parts';
import { PlaceLink, QuietButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';
import { useMay } from '../session/useSession';
import { AnswersPage } from './AnswersPage';
import { PairForm } from './PairForm';
import { openPath, useOpen, useSourcesChanged } from './useSources';

const WHY: Record<UnansweredGroup['why'], string> = {
  'not known': 'not in the sources',
  disagree: 'the sources say two different things',
  'passed over': 'none of what was offered',
};

/** What customers asked and the sources did not answer: each is answered once, or set aside. */
export function Unanswered() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const changes = useMay()('change sources');
  const { data, error, mutate } = useOpen(client);
  const changed = useSourcesChanged(client);
  const [answering, setAnswering] = useState<UnansweredGroup | null>(null);
  const count = data?.groups.reduce((sum, each) => sum + each.count, 0) ?? 0;
  return (
    <AnswersPage
      client={client}
      tab="Not answered"
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      about={data ? `${counted(count, 'question')} open` : 'What customers asked and the sources do not say.'}
    >
      {error && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data?.groups.length === 0 && (
        <Empty
          title="Nothing is left open"
          words="What a loop is asked and the sources do not answer stands here, the most asked first, until it is answered."
        />
      )}
      <View role="list" aria-label="Questions that were not answered">
        {data?.groups.map((group, at) => (
          <Group
            key={group.ids[0]}
            client={client}
            group={group}
            isFirst={at === 0}
            changes={changes}
            onAnswer={() => setAnswering(group)}
            read={mutate}
          />
        ))}
      </View>
      {answering && (
        <PairForm
          client={client}
          question={answering.question}
          wordings={answering.wordings.slice(1)}
          settles={answering.ids}
          onClose={() => setAnswering(null)}
          onSaved={changed}
        />
      )}
    </AnswersPage>
  );
}

/** Other wordings that are shown before the rest is counted. */
const SHOWN_WORDINGS = 3;

function Group({
  client,
  group,
  isFirst,
  changes,
  onAnswer,
  read,
}: {
  client: string;
  group: UnansweredGroup;
  isFirst: boolean;
  changes: boolean;
  onAnswer: () => void;
  read: () => Promise<unknown>;
}) {
  const { colors } = useTheme();
  const { act, busy, problem } = useAct(read);
  const [, ...others] = group.wordings;
  const shown = others.slice(0, SHOWN_WORDINGS).map((each) => `“${each}”`);
  const left = others.length - shown.length;
  return (
    <View
      role="listitem"
      aria-label={group.question}
      style={{ borderTopWidth: isFirst ? 0 : 1, borderColor: colors.line, paddingVertical: 10, gap: 4 }}
    >
      <Words kind="strong">{group.question}</Words>
      <Words kind="small">
        {[
          ...(group.count > 1 ? [`asked ${group.count} times`] : []),
          `last ${whenWords(group.lastAt)}`,
          WHY[group.why],
        ].join(', ')}
      </Words>
      {shown.length > 0 && (
        <Words kind="small">{`also: ${shown.join(', ')}${left > 0 ? ` and ${left} more` : ''}`}</Words>
      )}
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', columnGap: 12 }}>
        {group.asked.map(({ conversationId, name, at, loop }, index) => (
          <PlaceLink key={`${conversationId}-${index}`} href={`/inbox/${client}/${conversationId}`}>
            <Words kind="small" color="teal">{`${name}, ${whenWords(at)}${loop ? `, ${loop}` : ''}`}</Words>
          </PlaceLink>
        ))}
      </View>
      <Refused problem={problem} />
      {changes && (
        <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8, marginLeft: -6 }}>
          <QuietButton
            title="Write the answer"
            tone="teal"
            label={`Write the answer: ${group.question}`}
            onPress={onAnswer}
          />
          <QuietButton
            title="Not ours"
            label={`Not ours: ${group.question}`}
            disabled={busy}
            onPress={() => void act(() => ask('POST', `${openPath(client)}/not-ours`, { ids: group.ids }))}
          />
        </View>
      )}
    </View>
  );
}
