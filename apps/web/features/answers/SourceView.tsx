import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { Source, SourcePageView, SourcePassage } from '@dart-loop/contract/answers';
import { counted } from '@dart-loop/core/language/counted';
import { Field } from '../../ui/Field';
import { Page } from '../../ui/Page';
import { Failure, Refused, StateLine, Waiting } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { PickRow } from '../../ui/rows';
import { useTheme } from '../../ui/theme';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { Dropping } from '../files/Dropping';
import { ask, sendFile } from '../session/api';
import { useAct } from '../session/useAct';
import { useMay } from '../session/useSession';
import {
  DOCUMENTS,
  EVERY_WORDS,
  nameOf,
  nothingWords,
  READING_MS,
  readingWords,
  sizeWords,
  sourcesPath,
  useSourcesChanged,
} from './useSources';

/** A source as the program has understood it, passage by passage; each can be corrected or left out. */
export function SourceView() {
  const { client, source: id } = useLocalSearchParams<{ client: string; source: string }>();
  const path = `${sourcesPath(client)}/${id}`;
  const changes = useMay()('change sources');
  const { data, error, mutate } = useSWR<SourcePageView, Error>(path, {
    refreshInterval: (view) => (view?.source.reading ? READING_MS : 0),
  });
  const changed = useSourcesChanged(client);
  const replace = async (chosen: File, progress: (part: number) => void) => {
    await sendFile(`${path}/content?name=${nameOf(chosen)}`, chosen, progress);
    await changed();
  };
  const source = data?.source;
  return (
    <Page
      title={source?.name ?? 'Source'}
      back={{ href: `/${client}/answers`, words: 'Answers' }}
      about={source && aboutWords(source)}
    >
      {error && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {source && source.failure && <StateLine tone="warning">{nothingWords(source.failure)}</StateLine>}
      {source && changes && source.kind !== 'document' && (
        <Reading path={path} source={source} changed={changed} />
      )}
      {source && changes && source.kind === 'document' && (
        <View style={{ marginBottom: 12 }}>
          <Dropping words="Replace document" accept={DOCUMENTS} take={replace}>
            <Words kind="small">Corrections stay where the text below a heading is the same.</Words>
          </Dropping>
        </View>
      )}
      {data?.pages.map((page) => (
        <View key={page.id} role="list" aria-label={`Passages of ${page.title}`}>
          {source?.kind !== 'document' && <PageHeadline page={page} />}
          {page.passages.map((passage) => (
            <Passage key={passage.id} client={client} passage={passage} changes={changes} changed={changed} />
          ))}
        </View>
      ))}
    </Page>
  );
}

const aboutWords = (source: Source): string =>
  source.reading
    ? readingWords(source.reading)
    : source.readAt
      ? `${sizeWords(source)}; read ${whenWords(source.readAt)}`
      : 'not read yet';

/** Reads the pages again, stops it, and says how often it happens by itself. */
function Reading({
  path,
  source,
  changed,
}: {
  path: string;
  source: Source;
  changed: () => Promise<unknown>;
}) {
  const { act, busy, problem } = useAct(changed);
  const { reading } = source;
  return (
    <View style={{ gap: 12, marginBottom: 12 }}>
      <Refused problem={problem} />
      <View style={{ flexDirection: 'row' }}>
        {reading ? (
          <QuietButton
            outlined
            title={reading.isStopping ? 'Stopping' : 'Stop reading'}
            disabled={busy || reading.isStopping}
            onPress={() => void act(() => ask('POST', `${path}/stop`, {}))}
          />
        ) : (
          <QuietButton
            outlined
            title="Read again"
            disabled={busy}
            onPress={() => void act(() => ask('POST', `${path}/read`, {}))}
          />
        )}
      </View>
      <PickRow
        label="Read again by itself"
        value={source.every}
        options={EVERY_WORDS}
        onChange={(every) => void act(() => ask('PUT', path, { every }))}
      />
    </View>
  );
}

/** A page of a site: its title and address, and what is not well with it. */
function PageHeadline({ page }: { page: SourcePageView['pages'][number] }) {
  const { colors } = useTheme();
  const words = {
    waiting: 'is still to be read',
    read: null,
    'nothing in it': `has nothing to answer from${page.failure ? `: ${page.failure}` : ''}`,
    failed: `could not be read: ${page.failure}`,
    gone: `is gone: ${page.failure}. What it said is dropped when it is still gone a day later`,
  }[page.state];
  return (
    <View role="listitem" style={{ borderTopWidth: 2, borderColor: colors.line, paddingVertical: 8 }}>
      <Words kind="name">{page.title}</Words>
      {page.title !== page.address && <Words kind="small">{page.address}</Words>}
      {words && <StateLine tone={page.state === 'waiting' ? 'quiet' : 'warning'}>{words}</StateLine>}
    </View>
  );
}

function Passage({
  client,
  passage,
  changes,
  changed,
}: {
  client: string;
  passage: SourcePassage;
  changes: boolean;
  changed: () => Promise<unknown>;
}) {
  const { colors } = useTheme();
  const [written, setWritten] = useState<string | null>(null);
  const { act, busy, problem } = useAct();
  const heading = passage.headings.at(-1) ?? '';
  const save = (body: object) =>
    act(async () => {
      await ask('PUT', `/clients/${client}/passages/${passage.id}`, body);
      setWritten(null);
      await changed();
    });
  return (
    <View
      role="listitem"
      aria-label={heading}
      style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 10, gap: 4 }}
    >
      {passage.headings.length > 1 && <Words kind="small">{passage.headings.slice(0, -1).join(' › ')}</Words>}
      <Words kind="strong" color={passage.isMuted ? 'quiet' : 'ink'}>
        {heading}
      </Words>
      <Refused problem={problem} />
      {written === null ? (
        <Words color={passage.isMuted ? 'quiet' : 'ink'}>{passage.corrected ?? passage.text}</Words>
      ) : (
        <Field label={`What ${heading} says`} value={written} onChangeText={setWritten} multiline autoFocus />
      )}
      {passage.isMuted && <Words kind="small">Left out: nothing is answered from it.</Words>}
      {passage.corrected !== null && written === null && (
        <Words kind="small">{`Corrected here. It was read as: “${passage.text}”`}</Words>
      )}
      {passage.used > 0 && <Words kind="small">{`used in ${counted(passage.used, 'answer')}`}</Words>}
      {passage.wordings.length > 0 && (
        <Words kind="small">{`answers: ${passage.wordings.map((each) => `“${each}”`).join(', ')}`}</Words>
      )}
      {changes && (
        <View
          style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8, marginLeft: written === null ? -6 : 0 }}
        >
          {written !== null ? (
            <>
              <ActionButton
                title="Save text"
                busy={busy}
                disabled={!written.trim()}
                onPress={() => void save({ corrected: written.trim() === passage.text ? null : written })}
              />
              <QuietButton title="Cancel" onPress={() => setWritten(null)} />
            </>
          ) : (
            <>
              <QuietButton
                title="Correct"
                tone="teal"
                label={`Correct ${heading}`}
                onPress={() => setWritten(passage.corrected ?? passage.text)}
              />
              {passage.corrected !== null && (
                <QuietButton
                  title="As it was read"
                  tone="teal"
                  label={`${heading} as it was read`}
                  onPress={() => void save({ corrected: null })}
                />
              )}
              <QuietButton
                title={passage.isMuted ? 'Use again' : 'Leave out'}
                tone="teal"
                label={`${passage.isMuted ? 'Use again' : 'Leave out'}: ${heading}`}
                disabled={busy}
                onPress={() => void save({ isMuted: !passage.isMuted })}
              />
              {passage.wordings.length > 0 && (
                <QuietButton
                  title="Forget its questions"
                  tone="teal"
                  label={`Forget its questions: ${heading}`}
                  onPress={() => void save({ wordings: [] })}
                />
              )}
            </>
          )}
        </View>
      )}
    </View>
  );
}
