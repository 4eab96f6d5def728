import { router, useLocalSearchParams, type Href } from 'expo-router';
import { useRef, useState } from 'react';
import { Pressable, View } from 'react-native';
import useSWR from 'swr';
import type { LoopRow } from '@dart-loop/contract';
import { Field } from '../../ui/Field';
import { Dialog } from '../../ui/Menu';
import { ActionButton, QuietButton } from '../../ui/press';
import { Page } from '../../ui/Page';
import { Empty, Failure, Refused, Waiting } from '../../ui/parts';
import { whenHovered } from '../../ui/hover';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { counted } from '@dart-loop/core/language/counted';
import { STARTS } from '@dart-loop/core/loops/starts/index';
import { ask } from '../session/api';
import { LoopHeads, LoopLine } from './LoopLine';
import { useAct } from '../session/useAct';

/** A client's loops: what starts each, whether it is live, and how many people are in it. */
export function Loops() {
  const { wide } = useTheme();
  const { client } = useLocalSearchParams<{ client: string }>();
  const path = `/clients/${client}/loops`;
  const { data, error, mutate } = useSWR<LoopRow[], Error>(path);
  const [naming, setNaming] = useState(false);
  const [name, setName] = useState('');
  const [archive, setArchive] = useState(false);
  const { act, problem } = useAct();
  const file = useRef<HTMLInputElement | null>(null);
  const open = (work: Promise<{ id: string }>) =>
    act(async () => {
      const { id } = await work;
      setNaming(false);
      router.push(`/${client}/loops/${id}` as Href);
    });
  const takeIn = (file: string) => open(ask('POST', `${path}/import`, { file }));
  const readFile = () => {
    file.current ??= Object.assign(document.createElement('input'), {
      type: 'file',
      accept: '.yaml,.yml,.json',
    });
    file.current.onchange = async () => {
      const chosen = file.current?.files?.[0];
      if (chosen) await takeIn(await chosen.text());
      if (file.current) file.current.value = '';
    };
    file.current.click();
  };
  const archived = (data ?? []).filter((loop) => loop.state === 'archived');
  const shown = (data ?? []).filter((loop) => archive || loop.state !== 'archived');
  return (
    <Page
      title="Loops"
      about="Automated conversations: what starts each, and how many people are in it"
      width="wide"
      actions={
        <>
          <QuietButton outlined title="Import" onPress={readFile} />
          <ActionButton title="Add loop" onPress={() => setNaming(true)} />
        </>
      }
    >
      {!naming && <Refused problem={problem} />}
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data?.length === 0 && (
        <Empty
          title="No loop yet"
          words="A loop is one automated conversation: what starts it, and what is said. Begin with one of these, import one from a file, or add an empty one."
          action={<Starts onChoose={(file) => void takeIn(file)} />}
        />
      )}
      {wide && shown.length > 0 && <LoopHeads />}
      <View role="list" aria-label="Loops">
        {shown.map((loop) => (
          <LoopLine key={loop.id} loop={loop} href={`/${client}/loops/${loop.id}`} />
        ))}
      </View>
      {archived.length > 0 && (
        <QuietButton
          title={archive ? 'Hide archived loops' : `Show ${counted(archived.length, 'archived loop')}`}
          tone="quiet"
          onPress={() => setArchive(!archive)}
        />
      )}
      <Dialog title="Add loop" open={naming} onClose={() => setNaming(false)}>
        <View style={{ padding: 12, gap: 12 }}>
          <Refused problem={problem} />
          <Field
            label="Name"
            placeholder="Sailing alerts"
            value={name}
            onChangeText={setName}
            autoFocus
            onSubmitEditing={() => void open(ask('POST', path, { name }))}
          />
          <ActionButton title="Add loop" onPress={() => void open(ask('POST', path, { name }))} />
          <Words kind="smallStrong">Or begin with</Words>
          <Starts onChoose={(file) => void takeIn(file)} />
        </View>
      </Dialog>
    </Page>
  );
}

const NEEDS = { calendar: 'Needs a calendar, under Bookings.', comments: 'For Messenger and Instagram.' };

/** The loops to begin with. */
function Starts({ onChoose }: { onChoose: (file: string) => void }) {
  const { colors } = useTheme();
  return (
    <View role="list" aria-label="Loops to begin with" style={{ alignSelf: 'stretch', maxWidth: 480 }}>
      {STARTS.map(({ name, words, needs, file }) => (
        <View key={name} role="listitem" style={{ borderTopWidth: 1, borderColor: colors.line }}>
          <Pressable
            role="button"
            onPress={() => onChoose(file)}
            style={whenHovered((hovered) => ({
              minHeight: 56,
              justifyContent: 'center',
              paddingVertical: 8,
              paddingHorizontal: 4,
              backgroundColor: hovered ? colors.inset : undefined,
            }))}
          >
            <Words kind="strong">{name}</Words>
            <Words kind="small">{needs ? `${words} ${NEEDS[needs]}` : words}</Words>
          </Pressable>
        </View>
      ))}
    </View>
  );
}
