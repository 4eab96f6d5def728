import { View } from 'react-native';
import type { ConversationAct, ConversationPage } from '@dart-loop/contract';
import { Menu } from '../../ui/Menu';
import { QuietButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';

/** Who is in charge, in words: one line under the name. */
export function chargeWords(held: NonNullable<ConversationPage['held']>, me: string): string {
  const whom = held.by === me ? 'You' : held.by;
  if (whom) return `■ ${whom} stepped in ${whenWords(held.since)}`;
  return `■ handed over to ${held.team ?? 'whoever is there'} ${whenWords(held.since)}`;
}

/** Steps in, or hands back: the loop goes on, starts again from a scene, or is over. */
export function Charge({
  data,
  me,
  busy,
  act,
}: {
  data: ConversationPage;
  me: string;
  busy: boolean;
  act: (what: ConversationAct) => Promise<boolean>;
}) {
  const { colors } = useTheme();
  const handBack = (how: Extract<ConversationAct, { do: 'hand back' }>['how']) =>
    void act({ do: 'hand back', how });
  const stepIn = data.held?.by !== me && (
    <QuietButton
      outlined
      title={data.held?.by ? 'Take over' : 'Step in'}
      disabled={busy}
      onPress={() => void act({ do: 'step in' })}
    />
  );
  if (!data.held)
    return (
      <View style={{ flexDirection: 'row', gap: 8 }}>
        {stepIn}
        {data.shelf === 'waiting on us' && (
          <QuietButton outlined title="Settle" disabled={busy} onPress={() => handBack('end')} />
        )}
      </View>
    );
  return (
    <View style={{ flexDirection: 'row', gap: 8 }}>
      {stepIn}
      <View
        style={{ borderWidth: 1, borderColor: colors.line, borderRadius: 6, backgroundColor: colors.sheet }}
      >
        <Menu
          label="Hand back"
          title="Hand back"
          items={[
            ...(data.loop
              ? [
                  {
                    key: 'resume',
                    words: `${data.loop.name} continues`,
                    more: 'where it paused',
                    onChoose: () => handBack('resume'),
                  },
                  ...data.loop.scenes.map((scene, index) => ({
                    key: `scene-${scene.id}`,
                    words: `${data.loop!.name} continues at ${index + 1} ${scene.name}`,
                    onChoose: () => handBack({ scene: scene.id }),
                  })),
                ]
              : []),
            {
              key: 'end',
              words: 'Settled',
              more: data.loop
                ? `${data.loop.name} ends here`
                : 'the next message is answered by the loops again',
              onChoose: () => handBack('end'),
            },
          ]}
        >
          <Words kind="strong" style={{ paddingHorizontal: 14, fontSize: 15 }}>
            Hand back
          </Words>
        </Menu>
      </View>
    </View>
  );
}
