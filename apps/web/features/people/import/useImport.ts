import { useState } from 'react';
import useSWR from 'swr';
import type { ImportSpec, TaskView, UploadPage } from '@dart-loop/contract';
import type { ColumnUse } from '@dart-loop/core/people/columnUse';
import { ask } from '../../session/api';
import { useAct } from '../../session/useAct';
import { isUnderWay } from '../Tasks';

/** What is chosen for an import, besides the columns. */
export interface Settings extends Pick<
  ImportSpec,
  'dayOrder' | 'known' | 'bad' | 'mends' | 'optIn' | 'stated'
> {
  tag: string;
  list: string;
}

const AT_FIRST: Settings = {
  dayOrder: 'day first',
  known: 'file wins',
  bad: 'leave out the row',
  mends: {},
  optIn: [],
  stated: '',
  tag: '',
  list: '',
};
const REFRESH_MS = 400;

const listOf = (typed: string) => (typed.trim() ? [typed.trim()] : []);

/** An import of a file from its settings to its end: first tried, which changes nothing, then done. */
export function useImport(client: string, file: UploadPage, uses: ColumnUse[]) {
  const [settings, setSettings] = useState(AT_FIRST);
  const [run, setRun] = useState<{ taskId: string; isDry: boolean; asked: string } | null>(null);
  const { act, failure: error } = useAct();
  const { data: task } = useSWR<TaskView, Error>(run && `/clients/${client}/tasks/${run.taskId}`, {
    refreshInterval: (now) => (now && !isUnderWay(now) ? 0 : REFRESH_MS),
  });
  const { tag, list, ...rest } = settings;
  const spec: Omit<ImportSpec, 'dry'> = {
    uploadId: file.id,
    encoding: file.encoding as ImportSpec['encoding'],
    separator: file.separator,
    uses,
    header: true,
    tags: listOf(tag),
    lists: listOf(list),
    ...rest,
  };
  const asked = JSON.stringify(spec);
  const begin = (isDry: boolean) =>
    act(async () => {
      const { id } = await ask<TaskView>('POST', `/clients/${client}/people/imports`, {
        ...spec,
        dry: isDry,
      });
      setRun({ taskId: id, isDry, asked });
    });
  const isOver = task !== undefined && !isUnderWay(task);
  return {
    settings,
    set: (change: Partial<Settings>) => setSettings((now) => ({ ...now, ...change })),
    needsSource:
      spec.lists.length > 0 ||
      settings.optIn.length > 0 ||
      uses.some((use) => use.as === 'lists' || use.as === 'consent'),
    task: run ? task : undefined,
    /** The task is the import itself, and not its preview. */
    isReal: run !== null && !run.isDry,
    isOver,
    /** Something was chosen otherwise since the preview. */
    isStale: run !== null && run.isDry && isOver && run.asked !== asked,
    /** The preview that is ready to be looked at. */
    shown: run?.isDry && isOver ? run.taskId : null,
    error,
    preview: () => void begin(true),
    start: () => void begin(false),
    stop: () => void ask('POST', `/clients/${client}/tasks/${run?.taskId}/stop`, {}),
  };
}
