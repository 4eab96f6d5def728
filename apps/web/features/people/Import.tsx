import { router, useLocalSearchParams } from 'expo-router';
import { useEffect, useRef, useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { ImportSpec, PeopleVocabulary, TaskView, UploadPage } from '@dart-loop/contract';
import { keyOf, type ColumnUse } from '@dart-loop/core/people/columnUse';
import { fieldKey } from '@dart-loop/core/language/slug';
import { CHANNELS } from '@dart-loop/core/channels/index';
import { FieldType } from '@dart-loop/core/people/person';
import { Field } from '../../ui/Field';
import { Menu } from '../../ui/Menu';
import { ActionButton, QuietButton } from '../../ui/press';
import { Page } from '../../ui/Page';
import { Failure, Notice, Waiting } from '../../ui/parts';
import { Group, PickRow, TickRow } from '../../ui/rows';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { ask, sendFile, type ApiError } from '../session/api';
import { TaskLine, countsWords, isUnderWay } from './Tasks';

/** What a column is for, in words. */
export function useWords(use: ColumnUse, known: PeopleVocabulary | undefined): string {
  switch (use.as) {
    case 'nothing':
      return 'leave out';
    case 'field': {
      const field = known?.fields.find((each) => each.key === use.field);
      return field
        ? `${field.name} (${field.type})`
        : `new field ${use.field.replaceAll('_', ' ')} (${use.type})`;
    }
    case 'address':
    case 'handle':
    case 'consent':
      return `${{ address: 'address', handle: 'handle', consent: 'consent' }[use.as]} on ${known?.lines.find((line) => line.key === use.line)?.name ?? use.line}`;
    default:
      return use.as;
  }
}

/**
 * Bringing a file of people in: chosen, mapped, tried, mended, brought in; and taken back when it was wrong.
 */
export function Import() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const known = useSWR<PeopleVocabulary, Error>(`/clients/${client}/people/vocabulary`).data;
  const [file, setFile] = useState<UploadPage | null>(null);
  const [uses, setUses] = useState<ColumnUse[]>([]);
  const [sending, setSending] = useState<number | null>(null);
  const [error, setError] = useState<ApiError | null>(null);
  const input = useRef<HTMLInputElement>(null);

  const choose = async (chosen: File) => {
    setError(null);
    setSending(0);
    try {
      const page = await sendFile<UploadPage>(
        `/clients/${client}/people/files?name=${encodeURIComponent(chosen.name.slice(0, 200))}`,
        chosen,
        setSending,
      );
      setFile(page);
      setUses(page.columns.map((column) => column.use));
    } catch (problem) {
      setError(problem as ApiError);
    } finally {
      setSending(null);
    }
  };
  const look = async (how: { encoding?: string; separator?: string }) => {
    if (!file) return;
    const page = await ask<UploadPage>(
      'GET',
      `/clients/${client}/people/files/${file.id}?encoding=${how.encoding ?? file.encoding}&separator=${encodeURIComponent(how.separator ?? file.separator)}`,
    );
    setFile(page);
    setUses(page.columns.map((column) => column.use));
  };

  return (
    <Page
      title="Import people"
      width="wide"
      back={{ href: `/${client}/people`, words: 'People', onPhoneOnly: true }}
    >
      {error && <Failure error={error} />}
      {!file && (
        <View style={{ gap: 12, alignItems: 'flex-start', paddingVertical: 16 }}>
          <Words>
            CSV in any format and encoding, vCard, or JSON Lines as exported here. You see a preview first,
            with every cell that cannot be read. Nothing changes until you confirm, and the import can be
            undone.
          </Words>
          {sending === null ? (
            <ActionButton title="Choose a file" onPress={() => input.current?.click()} />
          ) : (
            <Waiting words={`Sending, ${Math.round(sending * 100)} %`} />
          )}
          <input
            ref={input}
            type="file"
            accept=".csv,.tsv,.txt,.vcf,.jsonl,.ndjson"
            aria-label="The file"
            style={{ position: 'absolute', width: 1, height: 1, opacity: 0 }}
            tabIndex={-1}
            onChange={(event) => {
              const chosen = event.target.files?.[0];
              if (chosen) void choose(chosen);
            }}
          />
        </View>
      )}
      {file && (
        <Mapping
          key={file.id}
          client={client}
          file={file}
          uses={uses}
          setUses={setUses}
          known={known}
          look={look}
          onOther={() => setFile(null)}
        />
      )}
    </Page>
  );
}

function Mapping({
  client,
  file,
  uses,
  setUses,
  known,
  look,
  onOther,
}: {
  client: string;
  file: UploadPage;
  uses: ColumnUse[];
  setUses: (next: ColumnUse[]) => void;
  known: PeopleVocabulary | undefined;
  look: (how: { encoding?: string; separator?: string }) => Promise<void>;
  onOther: () => void;
}) {
  const { colors } = useTheme();
  const [dayOrder, setDayOrder] = useState<ImportSpec['dayOrder']>('day first');
  const [matched, setMatched] = useState<ImportSpec['known']>('file wins');
  const [bad, setBad] = useState<ImportSpec['bad']>('leave out the row');
  const [tag, setTag] = useState('');
  const [list, setList] = useState('');
  const [optIn, setOptIn] = useState<string[]>([]);
  const [stated, setStated] = useState('');
  const [mends, setMends] = useState<ImportSpec['mends']>({});
  const [taskId, setTaskId] = useState<string | null>(null);
  const [error, setError] = useState<ApiError | null>(null);
  const { data: task } = useSWR<TaskView, Error>(taskId && `/clients/${client}/tasks/${taskId}`, {
    refreshInterval: (now) => (now && !isUnderWay(now) ? 0 : 400),
  });
  const [dry, setDry] = useState(true);
  const spec = (isDry: boolean): ImportSpec => ({
    uploadId: file.id,
    encoding: file.encoding as ImportSpec['encoding'],
    separator: file.separator,
    uses,
    header: true,
    dayOrder,
    known: matched,
    bad,
    mends,
    tags: tag.trim() ? [tag.trim()] : [],
    lists: list.trim() ? [list.trim()] : [],
    optIn,
    stated,
    dry: isDry,
  });
  const needsSource =
    list.trim() !== '' || optIn.length > 0 || uses.some((use) => use.as === 'lists' || use.as === 'consent');
  const run = async (isDry: boolean) => {
    setError(null);
    setDry(isDry);
    try {
      setTaskId((await ask<TaskView>('POST', `/clients/${client}/people/imports`, spec(isDry))).id);
    } catch (problem) {
      setError(problem as ApiError);
    }
  };
  // What was tried is out of date once something is chosen otherwise.
  const asked = JSON.stringify(spec(true));
  const [tried, setTried] = useState<string | null>(null);
  useEffect(() => {
    if (task && dry && !isUnderWay(task) && tried === null) setTried(asked);
  }, [task, dry, asked, tried]);
  const stale = tried !== null && tried !== asked;
  const result = useRef<View>(null);
  useEffect(() => {
    // What was found stands below the fold on most screens.
    if (tried !== null)
      (result.current as unknown as HTMLElement | null)?.scrollIntoView?.({ block: 'start' });
  }, [tried]);
  const over = task && !isUnderWay(task);
  const numbers = known?.lines.filter((line) => line.channel === 'sms' || line.channel === 'whatsapp') ?? [];
  const dates = uses.some((use) => use.as === 'field' && use.type === 'date');

  if (task && !dry)
    return (
      <View style={{ gap: 12 }}>
        <TaskLine task={task} client={client} />
        {over && task.state === 'done' && (
          <Notice tone="quiet">{`${countsWords(task.counts) || 'Nothing would change'}. ${task.canUndo ? 'You can undo the import here or on the People page.' : ''}`}</Notice>
        )}
        <Problems task={task} />
        {over && (
          <View style={{ flexDirection: 'row', gap: 8 }}>
            <ActionButton title="Open People" onPress={() => router.push(`/${client}/people`)} />
            <QuietButton outlined title="Choose another file" onPress={onOther} />
          </View>
        )}
      </View>
    );

  return (
    <View style={{ gap: 20, marginTop: 8 }}>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8, alignItems: 'center' }}>
        <Words kind="strong">{file.name}</Words>
        <Words kind="small">
          {file.format === 'csv'
            ? `${file.encoding}, separated by ${file.separator === '\t' ? 'tabs' : `“${file.separator}”`}`
            : file.format}
        </Words>
        <View style={{ flex: 1 }} />
        {file.format === 'csv' && (
          <Menu
            label="File settings"
            title="File settings"
            items={[
              ...(['utf-8', 'windows-1252', 'utf-16le', 'utf-16be'] as const).map((encoding) => ({
                key: encoding,
                words: encoding,
                chosen: encoding === file.encoding,
                onChoose: () => void look({ encoding }),
              })),
              ...(
                [
                  [',', 'comma-separated'],
                  [';', 'semicolon-separated'],
                  ['\t', 'tab-separated'],
                  ['|', 'bar-separated'],
                ] as const
              ).map(([separator, words]) => ({
                key: words,
                words,
                chosen: separator === file.separator,
                onChoose: () => void look({ separator }),
              })),
            ]}
          >
            <Words kind="strong" color="teal" style={{ paddingHorizontal: 6 }}>
              File settings
            </Words>
          </Menu>
        )}
        <QuietButton title="Choose another file" onPress={onOther} />
      </View>

      {file.format === 'csv' && (
        <View>
          <Words kind="heading">Columns</Words>
          {file.columns.map((column, at) => {
            const use = uses[at]!;
            const twice =
              use.as !== 'nothing' &&
              uses.some((other, index) => index !== at && keyOf(other) === keyOf(use));
            return (
              <View
                key={at}
                style={{
                  borderTopWidth: 1,
                  borderColor: colors.line,
                  paddingVertical: 6,
                  flexDirection: 'row',
                  flexWrap: 'wrap',
                  alignItems: 'center',
                  columnGap: 12,
                }}
              >
                <View style={{ flexGrow: 1, flexBasis: 180 }}>
                  <Words kind="strong" numberOfLines={1}>
                    {column.name || `column ${at + 1}`}
                  </Words>
                  <Words kind="small" numberOfLines={1}>
                    {column.samples.join(' · ') || 'empty'}
                  </Words>
                </View>
                <UseMenu
                  column={column.name || `column ${at + 1}`}
                  use={use}
                  known={known}
                  onChoose={(next) => setUses(uses.map((each, index) => (index === at ? next : each)))}
                />
                {twice && (
                  <Words kind="small" color="red" role="alert">
                    Another column is for the same.
                  </Words>
                )}
              </View>
            );
          })}
        </View>
      )}
      <Group title="Import settings">
        <PickRow
          label="People who are already known, by number, email or id"
          value={matched}
          options={[
            ['file wins', 'the file wins'],
            ['fill gaps', 'fill what is empty'],
            ['leave alone', 'leave as they are'],
          ]}
          onChange={setMatched}
        />
        <PickRow
          label="Rows with a cell that cannot be read"
          value={bad}
          options={[
            ['leave out the row', 'leave out the row'],
            ['leave the cell empty', 'leave the cell empty'],
          ]}
          onChange={setBad}
        />
        {dates && (
          <PickRow
            label="3/4/2026 is"
            value={dayOrder}
            options={[
              ['day first', '3 April'],
              ['month first', '4 March'],
            ]}
            onChange={setDayOrder}
          />
        )}
        <Field label="Add a tag to all of them" placeholder="none" value={tag} onChangeText={setTag} />
      </Group>
      <Group title="Opt-ins">
        <Words kind="small">
          Nobody is opted in unless you say where they opted in. People who have opted out stay opted out.
        </Words>
        {numbers.map((line) => (
          <TickRow
            key={line.key}
            label={`They have opted in to ${CHANNELS[line.channel].name} on ${line.name}`}
            on={optIn.includes(line.key)}
            onChange={(on) => setOptIn(on ? [...optIn, line.key] : optIn.filter((each) => each !== line.key))}
          />
        ))}
        <Field label="Add all of them to a list" placeholder="none" value={list} onChangeText={setList} />
        {(needsSource || stated !== '') && (
          <Field
            label="Where they opted in"
            placeholder="paper form, spring fair 2026"
            value={stated}
            onChangeText={setStated}
            problem={
              needsSource && stated.trim() === ''
                ? 'Say where they opted in. It is recorded with each opt-in.'
                : null
            }
          />
        )}
      </Group>
      {error && <Failure error={error} />}
      {task && dry && !stale && (
        <View ref={result} style={{ gap: 8 }} role="status">
          {isUnderWay(task) ? (
            <Waiting words={`Looking at each row, ${task.done.toLocaleString('en-GB')} so far`} />
          ) : task.failure ? (
            <Notice tone="failing">{task.failure}</Notice>
          ) : (
            <Notice
              tone={task.problems.length > 0 ? 'warning' : 'quiet'}
            >{`This would ${countsWords(task.counts, true) || 'change nothing'}.`}</Notice>
          )}
          {!isUnderWay(task) && (
            <Problems task={task} mends={mends} setMends={setMends} canMend={file.format === 'csv'} />
          )}
        </View>
      )}
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
        {over && dry && !stale && !task.failure ? (
          <ActionButton title="Import" onPress={() => void run(false)} />
        ) : (
          <ActionButton
            title={stale ? 'Preview again' : 'Preview'}
            busy={Boolean(task && isUnderWay(task))}
            disabled={needsSource && stated.trim() === ''}
            onPress={() => {
              setTried(null);
              void run(true);
            }}
          />
        )}
        {task && isUnderWay(task) && (
          <QuietButton
            outlined
            title="Stop"
            onPress={() => void ask('POST', `/clients/${client}/tasks/${task.id}/stop`, {})}
          />
        )}
      </View>
    </View>
  );
}

/**
 * Rows that are not taken as they are, each cell with its reason and, where it can be, a field to put it
 * right.
 */
function Problems({
  task,
  mends = {},
  setMends,
  canMend = false,
}: {
  task: TaskView;
  mends?: ImportSpec['mends'];
  setMends?: (next: ImportSpec['mends']) => void;
  canMend?: boolean;
}) {
  const { colors } = useTheme();
  if (task.problems.length === 0) return null;
  return (
    <View role="group" aria-label="Cells that cannot be read">
      <Words kind="heading">{`What cannot be read: ${task.problems.length.toLocaleString('en-GB')}`}</Words>
      {task.problems.slice(0, 100).map(({ row, column, cell, reason }, index) => (
        <View key={index} style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 8, gap: 4 }}>
          <Words kind="small" color="ink">
            {[row > 0 && `Row ${row}`, column && `column ${column}`].filter(Boolean).join(', ')}
            {cell ? `: “${cell.slice(0, 80)}”` : ''}
          </Words>
          <Words kind="small" color="ochre">{`◆ ${reason}`}</Words>
          {canMend && setMends && column !== null && (
            <Field
              label={`Row ${row}, ${column}, put right`}
              hideLabel
              placeholder="corrected"
              value={mends[String(row)]?.[column] ?? ''}
              onChangeText={(next) =>
                setMends({ ...mends, [String(row)]: { ...mends[String(row)], [column]: next } })
              }
            />
          )}
        </View>
      ))}
      {task.problems.length > 100 && (
        <Words kind="small">{`${task.problems.length - 100} more of the same kind are not shown.`}</Words>
      )}
    </View>
  );
}

const TYPES = FieldType.options.filter((type) => type !== 'file');

/** What a column is for: one of what there is, or a field that is made of it. */
function UseMenu({
  column,
  use,
  known,
  onChoose,
}: {
  column: string;
  use: ColumnUse;
  known: PeopleVocabulary | undefined;
  onChoose: (next: ColumnUse) => void;
}) {
  const key = fieldKey(column);
  const isNew = use.as === 'field' && !known?.fields.some((field) => field.key === use.field);
  const chosen = keyOf(use);
  const item = (next: ColumnUse, words: string, more?: string) => ({
    key: words,
    words,
    more,
    chosen: keyOf(next) === chosen,
    onChoose: () => onChoose(next),
  });
  return (
    <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', columnGap: 4 }}>
      <Menu
        label={`${column}: ${useWords(use, known)}`}
        title={`What “${column}” is`}
        items={[
          item({ as: 'nothing' }, 'Leave out'),
          ...(
            [
              'first name',
              'last name',
              'whole name',
              'language',
              'tags',
              'lists',
              'source',
              'first met',
              'last seen',
              'person id',
            ] as const
          ).map((as) => item({ as }, as[0]!.toUpperCase() + as.slice(1))),
          ...(known?.fields ?? []).map((field) =>
            item({ as: 'field', field: field.key, type: field.type }, field.name, field.type),
          ),
          ...(known?.lines ?? []).flatMap((line) => [
            item(
              { as: 'address', line: line.key },
              `Address on ${line.name}`,
              line.channel === 'sms' || line.channel === 'whatsapp'
                ? 'a telephone number'
                : 'the id that the channel gives',
            ),
            item({ as: 'consent', line: line.key }, `Consent on ${line.name}`, '“opted in” or “opted out”'),
          ]),
          ...(known?.fields.some((field) => field.key === key)
            ? []
            : [item({ as: 'field', field: key, type: 'text' }, `A new field, ${key.replaceAll('_', ' ')}`)]),
        ]}
      >
        <Words kind="strong" color={use.as === 'nothing' ? 'quiet' : 'teal'} style={{ paddingHorizontal: 6 }}>
          {useWords(use, known)}
        </Words>
      </Menu>
      {isNew && (
        <Menu
          label={`Type of ${column}: ${use.type}`}
          title="Type"
          compact
          items={TYPES.map((type) => ({
            key: type,
            words: type,
            chosen: type === use.type,
            onChoose: () => onChoose({ ...use, type }),
          }))}
        >
          <Words kind="small" color="teal" style={{ paddingHorizontal: 6 }}>
            change type
          </Words>
        </Menu>
      )}
    </View>
  );
}
