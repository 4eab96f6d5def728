import { router, useLocalSearchParams, type Href } from 'expo-router';
import { useRef, useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { LoopRow } from '@dart-loop/contract';
import { Field } from '../../ui/Field';
import { Dialog } from '../../ui/Menu';
import { ActionButton, PlaceLink, QuietButton } from '../../ui/press';
import { Empty, Failure, Refused, Page, StateShape, Waiting } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { FIRST_LOOP } from '@dart-loop/core/loops/file/firstLoop';
import { ask } from '../session/api';
import { STATE_WORDS } from './stateWords';

/** A client's loops: what starts each, whether it is live, and how many people are in it. */
export function Loops() {
  const { colors } = useTheme();
  const { client } = useLocalSearchParams<{ client: string }>();
  const path = `/clients/${client}/loops`;
  const { data, error, mutate } = useSWR<LoopRow[], Error>(path);
  const [naming, setNaming] = useState(false);
  const [name, setName] = useState('');
  const [archive, setArchive] = useState(false);
  const [problem, setProblem] = useState<Error | null>(null);
  const file = useRef<HTMLInputElement | null>(null);
  const open = async (work: Promise<{ id: string }>) => {
    setProblem(null);
    try {
      const { id } = await work;
      setNaming(false);
      router.push(`/${client}/loops/${id}` as Href);
    } catch (failure) {
      setProblem(failure as Error);
    }
  };
  const readFile = () => {
    file.current ??= Object.assign(document.createElement('input'), {
      type: 'file',
      accept: '.yaml,.yml,.json',
    });
    file.current.onchange = async () => {
      const chosen = file.current?.files?.[0];
      if (chosen) await open(ask('POST', `${path}/import`, { file: await chosen.text() }));
      if (file.current) file.current.value = '';
    };
    file.current.click();
  };
  const archived = (data ?? []).filter((loop) => loop.state === 'archived');
  const shown = (data ?? []).filter((loop) => archive || loop.state !== 'archived');
  const explain = () => open(ask('POST', `${path}/import`, { file: FIRST_LOOP }));
  return (
    <Page
      title="Loops"
      beside={
        <View style={{ flexDirection: 'row', gap: 8 }}>
          <QuietButton outlined title="From a file" onPress={readFile} />
          <ActionButton title="New loop" onPress={() => setNaming(true)} />
        </View>
      }
    >
      {!naming && <Refused problem={problem?.message} />}
      {error && !data && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data?.length === 0 && (
        <Empty
          title="No loop yet"
          words="A loop is one automated message sequence: what starts it, and the conversation it leads. Write the first, take one in from a file, or begin with one that explains itself as you rehearse it."
          action={
            <QuietButton
              outlined
              title="Begin with the one that explains itself"
              onPress={() => void explain()}
            />
          }
        />
      )}
      <View role="list" aria-label="Loops" style={{ marginTop: 12 }}>
        {shown.map((loop) => (
          <View key={loop.id} role="listitem">
            <PlaceLink
              href={`/${client}/loops/${loop.id}`}
              style={{
                borderTopWidth: 1,
                borderColor: colors.line,
                borderRadius: 0,
                paddingVertical: 14,
                paddingHorizontal: 8,
              }}
            >
              <Words kind="name">{loop.name}</Words>
              <Words kind="small" color="ink">
                {loop.cues.length === 0 ? 'nothing starts it yet' : `starts with ${loop.cues.join('; ')}`}
              </Words>
              <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center' }}>
                <StateShape
                  tone={
                    loop.state === 'live'
                      ? loop.draftAhead
                        ? 'ahead'
                        : 'live'
                      : loop.state === 'paused'
                        ? 'warning'
                        : 'quiet'
                  }
                />
                <Words kind="small">
                  {[
                    loop.state === 'live' ? `live, version ${loop.liveVersion}` : STATE_WORDS[loop.state],
                    ...(loop.draftAhead ? ['draft ahead of it'] : []),
                    `${loop.peopleInIt} in it now`,
                    `${loop.finishedThisWeek} finished this week`,
                    ...(loop.problems > 0
                      ? [loop.problems === 1 ? '1 thing to mend' : `${loop.problems} things to mend`]
                      : []),
                  ].join(' · ')}
                </Words>
              </View>
            </PlaceLink>
          </View>
        ))}
      </View>
      {archived.length > 0 && (
        <QuietButton
          title={
            archive
              ? 'Hide what is archived'
              : `Show ${archived.length === 1 ? '1 that is' : `${archived.length} that are`} archived`
          }
          tone="quiet"
          onPress={() => setArchive(!archive)}
        />
      )}
      <Dialog title="New loop" open={naming} onClose={() => setNaming(false)}>
        <View style={{ padding: 12, gap: 12 }}>
          <Refused problem={problem?.message} />
          <Field
            label="Name"
            placeholder="Sailing alerts"
            value={name}
            onChangeText={setName}
            autoFocus
            onSubmitEditing={() => void open(ask('POST', path, { name }))}
          />
          <ActionButton title="Make it" onPress={() => void open(ask('POST', path, { name }))} />
          <QuietButton
            title="Begin with one that explains itself"
            tone="teal"
            onPress={() => void explain()}
          />
        </View>
      </Dialog>
    </Page>
  );
}
