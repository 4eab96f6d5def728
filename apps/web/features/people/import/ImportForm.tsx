import { router } from 'expo-router';
import { useEffect, useRef } from 'react';
import { View } from 'react-native';
import type { PeopleVocabulary, TaskView, UploadPage } from '@dart-loop/contract';
import type { ColumnUse } from '@dart-loop/core/people/columnUse';
import { Failure, Notice, Waiting } from '../../../ui/parts';
import { ActionButton, QuietButton } from '../../../ui/press';
import { grouped } from '../../../ui/time';
import { TaskLine, countsWords, isUnderWay } from '../Tasks';
import { ColumnUses } from './ColumnUses';
import { FileHead, type Reading } from './FileHead';
import { Problems } from './Problems';
import { SettingsForm } from './SettingsForm';
import { useImport } from './useImport';

/** A file that was read: what its columns are for and how it is imported, a preview, and the import. */
export function ImportForm({
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
  look: (how: Reading) => Promise<void>;
  onOther: () => void;
}) {
  const { settings, set, needsSource, task, isReal, isOver, isStale, shown, error, preview, start, stop } =
    useImport(client, file, uses);
  const result = useRef<View>(null);
  useEffect(() => {
    // What was found stands below the fold on most screens.
    if (shown !== null)
      (result.current as unknown as HTMLElement | null)?.scrollIntoView?.({ block: 'start' });
  }, [shown]);
  if (task && isReal) return <Imported client={client} task={task} onOther={onOther} />;
  const isPreviewed = isOver && !isStale && !task?.failure;
  return (
    <View style={{ gap: 20, marginTop: 8 }}>
      <FileHead file={file} look={look} onOther={onOther} />
      {file.format === 'csv' && <ColumnUses file={file} uses={uses} setUses={setUses} known={known} />}
      <SettingsForm
        settings={settings}
        set={set}
        lines={known?.lines ?? []}
        hasDates={uses.some((use) => use.as === 'field' && use.type === 'date')}
        needsSource={needsSource}
      />
      {error && <Failure error={error} />}
      {task && !isStale && (
        <View ref={result} style={{ gap: 8 }} role="status">
          <Preview task={task} />
          {isOver && (
            <Problems
              task={task}
              mends={settings.mends}
              setMends={(mends) => set({ mends })}
              canMend={file.format === 'csv'}
            />
          )}
        </View>
      )}
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
        {isPreviewed ? (
          <ActionButton title="Import" onPress={start} />
        ) : (
          <ActionButton
            title={isStale ? 'Preview again' : 'Preview'}
            busy={task !== undefined && !isOver}
            disabled={needsSource && settings.stated.trim() === ''}
            onPress={preview}
          />
        )}
        {task && !isOver && <QuietButton outlined title="Stop" onPress={stop} />}
      </View>
    </View>
  );
}

function Preview({ task }: { task: TaskView }) {
  if (isUnderWay(task)) return <Waiting words={`Checking each row, ${grouped(task.done)} so far`} />;
  if (task.failure) return <Notice tone="failing">{task.failure}</Notice>;
  return (
    <Notice
      tone={task.problems.length > 0 ? 'warning' : 'quiet'}
    >{`This would ${countsWords(task.counts, true) || 'change nothing'}.`}</Notice>
  );
}

/** The import itself, under way or over. */
function Imported({ client, task, onOther }: { client: string; task: TaskView; onOther: () => void }) {
  const isOver = !isUnderWay(task);
  return (
    <View style={{ gap: 12 }}>
      <TaskLine task={task} client={client} />
      {task.state === 'done' && (
        <Notice tone="quiet">{`${countsWords(task.counts) || 'Nothing changed'}. ${task.canUndo ? 'You can undo the import here or on the People page.' : ''}`}</Notice>
      )}
      <Problems task={task} />
      {isOver && (
        <View style={{ flexDirection: 'row', gap: 8 }}>
          <ActionButton title="Open People" onPress={() => router.push(`/${client}/people`)} />
          <QuietButton outlined title="Choose another file" onPress={onOther} />
        </View>
      )}
    </View>
  );
}
