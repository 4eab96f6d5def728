import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import type { Pair, Source, SourcesPage } from '@dart-loop/contract/answers';
import { READABLE } from '@dart-loop/core/answers/documents/kinds';
import { counted } from '@dart-loop/core/language/counted';
import { Failure, StateLine, Waiting } from '../../ui/parts';
import { PlaceLink, QuietButton, TextLink } from '../../ui/press';
import { Group } from '../../ui/rows';
import { useTheme } from '../../ui/theme';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { Dropping } from '../files/Dropping';
import { ask } from '../session/api';
import { RemoveButton } from '../session/RemoveButton';
import { useMay } from '../session/useSession';
import { AnswersPage } from './AnswersPage';
import { PairForm } from './PairForm';
import { PasteForm } from './PasteForm';
import { SiteForm } from './SiteForm';
import {
  DOCUMENTS,
  nothingWords,
  pairsPath,
  readingWords,
  sizeWords,
  sourcesPath,
  useSources,
  useSourcesChanged,
} from './useSources';

/** What a client's questions are answered from: documents, pairs of question and answer, and the brief. */
export function Sources() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const may = useMay();
  const changes = may('change sources');
  const { page, error, mutate, add } = useSources(client);
  const [adding, setAdding] = useState(false);
  return (
    <AnswersPage
      client={client}
      tab="Sources"
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      about={page ? summary(page) : 'What questions are answered from.'}
    >
      {error && <Failure error={error} again={() => void mutate()} />}
      {!page && !error && <Waiting />}
      {page && (
        <View style={{ gap: 24 }}>
          <View role="group" aria-label="Documents and pages" style={{ gap: 10 }}>
            <Words kind="smallStrong">Documents and pages</Words>
            {changes && (
              <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
                <Dropping
                  words="Add a document"
                  accept={DOCUMENTS}
                  take={(chosen, progress) => add(chosen, progress)}
                >
                  <QuietButton outlined title="Add a website" onPress={() => setAdding(true)} />
                </Dropping>
              </View>
            )}
            {changes && <Words kind="small">{`Drag a document here, too: ${READABLE}.`}</Words>}
            {page.sources.length === 0 && (
              <Words kind="small">
                None yet. Add what customers are told anyway: the website, prices, rules.
              </Words>
            )}
            <View role="list" aria-label="Documents and pages">
              {page.sources.map((source) => (
                <SourceRow key={source.id} client={client} source={source} changes={changes} />
              ))}
            </View>
          </View>
          <Pairs client={client} pairs={page.pairs} changes={changes} />
          <Group title="From the brief">
            {page.brief.map(({ heading, text }) => (
              <View key={heading} style={{ paddingVertical: 4 }}>
                <Words kind="smallStrong">{heading}</Words>
                <Words kind="small">{text}</Words>
              </View>
            ))}
            {page.brief.length === 0 && <Words kind="small">It has no facts yet.</Words>}
            {may('see brief') && <TextLink href={`/${client}/brief`}>Open Brief</TextLink>}
          </Group>
        </View>
      )}
      {adding && <SiteForm client={client} onClose={() => setAdding(false)} onSaved={mutate} />}
    </AnswersPage>
  );
}

const summary = ({ sources, pairs, brief }: SourcesPage): string =>
  `${counted(sources.length, 'source')}, ${counted(pairs.length, 'pair')} and ${counted(brief.length, 'fact')} of the brief`;

function SourceRow({ client, source, changes }: { client: string; source: Source; changes: boolean }) {
  const { colors } = useTheme();
  const changed = useSourcesChanged(client);
  return (
    <View
      role="listitem"
      aria-label={source.name}
      style={{
        ...{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 6 },
        ...{ flexDirection: 'row', alignItems: 'center', gap: 8 },
      }}
    >
      <PlaceLink href={`/${client}/answers/${source.id}`} style={{ flex: 1, minWidth: 0 }}>
        <Words kind="strong" numberOfLines={2}>
          {source.name}
        </Words>
        <StandsLine source={source} />
      </PlaceLink>
      {changes && (
        <RemoveButton
          name={source.name}
          words="Nothing is answered from it any more. Corrections of its passages are gone with it; this cannot be undone."
          remove={async () => {
            await ask('DELETE', `${sourcesPath(client)}/${source.id}`);
            await changed();
          }}
        />
      )}
    </View>
  );
}

/** What a source has, or how far its reading is, or why there is nothing of it. */
function StandsLine({ source }: { source: Source }) {
  const { reading, failure, readAt, kind, pages } = source;
  if (reading) return <StateLine tone="live">{readingWords(reading)}</StateLine>;
  if (failure) return <StateLine tone="warning">{nothingWords(failure)}</StateLine>;
  const size = kind === 'document' ? sizeWords(source) : `${counted(pages, 'page')}, ${sizeWords(source)}`;
  const by = source.madeBy ? `, added by ${source.madeBy}` : '';
  return <Words kind="small">{readAt ? `${size}; read ${whenWords(readAt)}${by}` : 'not read yet'}</Words>;
}

function Pairs({ client, pairs, changes }: { client: string; pairs: Pair[]; changes: boolean }) {
  const { colors } = useTheme();
  const [editing, setEditing] = useState<Pair | 'new' | 'paste' | null>(null);
  const changed = useSourcesChanged(client);
  return (
    <Group title="Questions and answers">
      {changes && (
        <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
          <QuietButton outlined title="Add answer" onPress={() => setEditing('new')} />
          <QuietButton title="Paste several" onPress={() => setEditing('paste')} />
        </View>
      )}
      {pairs.length === 0 && (
        <Words kind="small">
          None yet. Write the answer to a question that customers ask often; it is sent word for word.
        </Words>
      )}
      <View role="list" aria-label="Questions and answers">
        {pairs.map((pair) => (
          <View
            key={pair.id}
            role="listitem"
            aria-label={pair.question}
            style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 8, gap: 2 }}
          >
            <Words kind="strong">{pair.question}</Words>
            <Words>{pair.answer}</Words>
            {pair.wordings.length > 0 && (
              <Words kind="small">{`also: ${pair.wordings.map((each) => `“${each}”`).join(', ')}`}</Words>
            )}
            {changes && (
              <View style={{ flexDirection: 'row', gap: 8, marginLeft: -6 }}>
                <QuietButton
                  title="Change"
                  tone="teal"
                  label={`Change ${pair.question}`}
                  onPress={() => setEditing(pair)}
                />
                <RemoveButton
                  name={pair.question}
                  words="It is not answered any more, however it is asked. This cannot be undone."
                  remove={async () => {
                    await ask('DELETE', `${pairsPath(client)}/${pair.id}`);
                    await changed();
                  }}
                />
              </View>
            )}
          </View>
        ))}
      </View>
      {editing === 'paste' && (
        <PasteForm
          title="Paste answers"
          about="One line for each, its columns named in the first line: question, answer and, if you like, wordings (several parted by |)."
          path={`${pairsPath(client)}/paste`}
          onClose={() => setEditing(null)}
          onSaved={changed}
        />
      )}
      {editing && editing !== 'paste' && (
        <PairForm
          client={client}
          pair={editing === 'new' ? undefined : editing}
          onClose={() => setEditing(null)}
          onSaved={changed}
        />
      )}
    </Group>
  );
}
