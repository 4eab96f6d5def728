import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import type { SheetPage, SheetRowView, SheetRun } from '@dart-loop/contract/answers';
import { CAME_RANK, type Came } from '@dart-loop/core/answers/came';
import { counted } from '@dart-loop/core/language/counted';
import { Empty, Failure, Refused, StateLine, Waiting } from '../../ui/parts';
import { QuietButton } from '../../ui/press';
import { Group, TickRow } from '../../ui/rows';
import { useTheme } from '../../ui/theme';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { RemoveButton } from '../session/RemoveButton';
import { useAct } from '../session/useAct';
import { useMay } from '../session/useSession';
import { AnswersPage } from './AnswersPage';
import { PasteForm } from './PasteForm';
import { QuestionForm } from './QuestionForm';
import { sheetPath, useSheet } from './useSources';

const CAME: Record<Came, string> = {
  right: 'answered rightly',
  offered: 'offered among others',
  open: 'left open',
  wrong: 'answered wrongly',
};

/** Questions with what is right, asked again after every change of the sources. */
export function Sheet() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const changes = useMay()('change sources');
  const { data, error, mutate } = useSheet(client);
  const [editing, setEditing] = useState<SheetRowView | 'new' | 'paste' | null>(null);
  const { act, busy, problem } = useAct();
  const run = () =>
    act(async () => {
      await ask('POST', `${sheetPath(client)}/run`, {});
      await mutate();
    });
  const keep = (body: { gates: boolean }) =>
    act(async () => {
      await ask('PUT', sheetPath(client), body);
      await mutate();
    });
  return (
    <AnswersPage
      client={client}
      tab="Question sheet"
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      about={data ? summary(data) : 'Questions with what is right.'}
    >
      {error && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {data && changes && (
        <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8, marginBottom: 12 }}>
          <QuietButton outlined title="Add question" onPress={() => setEditing('new')} />
          <QuietButton title="Paste several" onPress={() => setEditing('paste')} />
          {data.rows.length > 0 && (
            <QuietButton title={busy ? 'Asking …' : 'Ask now'} disabled={busy} onPress={() => void run()} />
          )}
        </View>
      )}
      {data && data.rows.length > 0 && changes && (
        <TickRow
          label="Loops that answer are published only when every question comes out as expected"
          on={data.gates}
          onChange={(gates) => void keep({ gates })}
        />
      )}
      <Refused problem={problem} />
      {data?.rows.length === 0 && (
        <Empty
          title="No questions yet"
          words="Add what customers ask, with what a right answer has in it. All of them are asked after every change, and you see what became better or worse."
        />
      )}
      {data && data.runs.length > 0 && <Runs runs={data.runs} />}
      {data && <Rows data={data} changes={changes} client={client} onEdit={setEditing} read={mutate} />}
      {editing === 'paste' && (
        <PasteForm
          title="Paste questions"
          about="One line for each, its columns named in the first line: question, from, contains, lacks, known (yes or no), least (answer, offer or open). Only question is needed."
          path={`${sheetPath(client)}/paste`}
          onClose={() => setEditing(null)}
          onSaved={mutate}
        />
      )}
      {editing && editing !== 'paste' && (
        <QuestionForm
          client={client}
          row={editing === 'new' ? undefined : editing}
          onClose={() => setEditing(null)}
          onSaved={mutate}
        />
      )}
    </AnswersPage>
  );
}

function summary({ rows, isStale }: SheetPage): string {
  const well = rows.filter(({ isExpected }) => isExpected).length;
  return `${well} of ${counted(rows.length, 'question')} as expected${isStale ? '; being asked again' : ''}`;
}

function Runs({ runs }: { runs: SheetRun[] }) {
  const moved = ({ better, worse }: SheetRun) =>
    better + worse === 0
      ? 'nothing moved'
      : [better > 0 && `${better} better`, worse > 0 && `${worse} worse`].filter(Boolean).join(', ');
  return (
    <View style={{ marginBottom: 20 }}>
      <Group title="What changed">
        {runs.slice(0, 4).map((run) => (
          <StateLine key={run.at} tone={run.worse > 0 ? 'warning' : 'quiet'}>
            {`${whenWords(run.at)}, ${run.because}: ${moved(run)}; ${run.counts.right} right, ${run.counts.wrong} wrong`}
          </StateLine>
        ))}
      </Group>
    </View>
  );
}

function Rows({
  data,
  changes,
  client,
  onEdit,
  read,
}: {
  data: SheetPage;
  changes: boolean;
  client: string;
  onEdit: (row: SheetRowView) => void;
  read: () => Promise<unknown>;
}) {
  const { colors } = useTheme();
  // What is not as expected comes first.
  const rows = [...data.rows].sort(
    (one, other) => Number(one.isExpected ?? true) - Number(other.isExpected ?? true),
  );
  return (
    <View role="list" aria-label="Questions">
      {rows.map((row) => (
        <View
          key={row.id}
          role="listitem"
          aria-label={row.question}
          style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 8, gap: 2 }}
        >
          <Words kind="strong">{row.question}</Words>
          <Words kind="small">{expectation(row)}</Words>
          {row.came ? (
            <StateLine tone={row.isExpected ? 'quiet' : row.came === 'wrong' ? 'failing' : 'warning'}>
              {cameWords(row.came, row.said)}
            </StateLine>
          ) : (
            <Words kind="small">not asked yet</Words>
          )}
          {row.came && row.cameBefore && row.cameBefore !== row.came && (
            <Words kind="small">
              {`${CAME_RANK[row.came] > CAME_RANK[row.cameBefore] ? 'Better' : 'Worse'} than before: ${CAME[row.cameBefore]}${row.saidBefore ? `, “${row.saidBefore}”` : ''}`}
            </Words>
          )}
          {changes && (
            <View style={{ flexDirection: 'row', gap: 8, marginLeft: -6 }}>
              <QuietButton
                title="Change"
                tone="teal"
                label={`Change ${row.question}`}
                onPress={() => onEdit(row)}
              />
              <RemoveButton
                name={row.question}
                words="It is asked no more. This cannot be undone."
                remove={async () => {
                  await ask('DELETE', `${sheetPath(client)}/questions/${row.id}`);
                  await read();
                }}
              />
            </View>
          )}
        </View>
      ))}
    </View>
  );
}

/** "Left open", or what else was offered. */
const cameWords = (came: Came, said: string | null): string =>
  said ? `${came === 'open' ? 'offered, but not what is right' : CAME[came]}: “${said}”` : CAME[came];

/** "To be answered from tickets.md#Children, with “£3”". */
function expectation({ known, least, from, contains, lacks }: SheetRowView): string {
  if (known === 'no') return 'Nothing may be said: the sources do not say it';
  const quoted = (parts: string[]) => parts.map((part) => `“${part}”`).join(' and ');
  const verb = { answer: 'To be answered', offer: 'To be answered or offered', open: 'May be left open' }[
    least
  ];
  return [
    `${verb}${from ? ` from ${from}` : ''}`,
    ...(contains.length > 0 ? [`with ${quoted(contains)}`] : []),
    ...(lacks.length > 0 ? [`without ${quoted(lacks)}`] : []),
  ].join(', ');
}
