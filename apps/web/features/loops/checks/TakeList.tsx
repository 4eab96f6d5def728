import { useState } from 'react';
import { View } from 'react-native';
import type { TakePlayed, TakeTurn } from '@dart-loop/core/loops/takes/takes';
import { QuietButton } from '../../../ui/press';
import { useTheme } from '../../../ui/theme';
import { Words } from '../../../ui/Words';

/**
 * Rehearsals that were kept, as they play now: what differs from what was kept, line by line, to accept or to
 * mend.
 */
export function TakeList({
  takes,
  accept,
  remove,
  rehearse,
}: {
  takes: readonly TakePlayed[];
  accept(played: TakePlayed): void;
  remove(takeId: string): void;
  rehearse(takeId: string): void;
}) {
  const { colors } = useTheme();
  if (takes.length === 0)
    return (
      <Words color="quiet">
        No take yet. Rehearse a conversation and save it as a take. It is then played again after every
        change, and you see at once if something breaks.
      </Words>
    );
  return (
    <View role="list" aria-label="Takes">
      {takes.map((take) => (
        <View
          key={take.takeId}
          role="listitem"
          style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 8, gap: 4 }}
        >
          <Words kind="strong">{take.name}</Words>
          <Words kind="small" color={take.changed > 0 ? 'ochre' : 'quiet'}>
            {take.changed > 0
              ? `◆ ${take.changed === 1 ? '1 turn plays' : `${take.changed} turns play`} otherwise than kept`
              : `● plays as kept, ${take.turns.length === 1 ? '1 turn' : `${take.turns.length} turns`}`}
          </Words>
          {take.turns.filter(differs).map((turn, at) => (
            <Difference key={at} turn={turn} />
          ))}
          <View style={{ flexDirection: 'row', flexWrap: 'wrap', columnGap: 8 }}>
            {take.changed > 0 && (
              <QuietButton
                outlined
                title="Accept changes"
                label={`Accept the changes in ${take.name}`}
                onPress={() => accept(take)}
              />
            )}
            <QuietButton
              title="Rehearse"
              label={`Rehearse ${take.name}`}
              tone="teal"
              onPress={() => rehearse(take.takeId)}
            />
            <Removing name={take.name} onRemove={() => remove(take.takeId)} />
          </View>
        </View>
      ))}
    </View>
  );
}

const differs = (turn: TakeTurn) =>
  turn.cannot !== null || turn.kept.join('\u0000') !== turn.now.join('\u0000');

function Difference({ turn }: { turn: TakeTurn }) {
  const { colors } = useTheme();
  const gone = turn.kept.filter((words) => !turn.now.includes(words));
  const come = turn.now.filter((words) => !turn.kept.includes(words));
  return (
    <View style={{ borderLeftWidth: 2, borderColor: colors.ochre, paddingLeft: 8, gap: 2 }}>
      <Words kind="smallStrong">{`› ${turn.does}`}</Words>
      {turn.cannot !== null && (
        <Words
          kind="small"
          color="ochre"
        >{`This step of the take is no longer possible: ${turn.cannot}.`}</Words>
      )}
      {gone.map((words) => (
        <Words
          key={`- ${words}`}
          kind="small"
          style={{ textDecorationLine: 'line-through' }}
        >{`− ${words}`}</Words>
      ))}
      {come.map((words) => (
        <Words key={`+ ${words}`} kind="small" color="ink">{`+ ${words}`}</Words>
      ))}
      {turn.cannot === null && gone.length === 0 && come.length === 0 && (
        <Words kind="small">The same, in another order.</Words>
      )}
    </View>
  );
}

function Removing({ name, onRemove }: { name: string; onRemove: () => void }) {
  const [sure, setSure] = useState(false);
  return sure ? (
    <QuietButton title="Remove take" label={`Remove the take ${name}`} tone="red" onPress={onRemove} />
  ) : (
    <QuietButton title="Remove" label={`Remove ${name} …`} tone="quiet" onPress={() => setSure(true)} />
  );
}
