import { useState } from 'react';
import { View } from 'react-native';
import useSWR, { useSWRConfig } from 'swr';
import type { TaskView } from '@dart-loop/contract';
import { QuietButton } from '../../ui/press';
import { StateShape } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { grouped, isWithin, whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { useAct } from '../session/useAct';

const UNDER_WAY: TaskView['state'][] = ['waiting', 'running', 'stopping', 'undoing'];
export const isUnderWay = (task: Pick<TaskView, 'state'>) => UNDER_WAY.includes(task.state);

const STATES: Record<TaskView['state'], string> = {
  waiting: 'starting soon',
  running: 'in progress',
  stopping: 'stopping',
  stopped: 'stopped',
  done: 'done',
  failed: 'failed',
  undoing: 'being undone',
  undone: 'undone',
};

/** What a task counts: as it has been done, and as it would be done. */
const COUNTED: Record<string, readonly [done: string, would: string]> = {
  made: ['added', 'add'],
  changed: ['changed', 'change'],
  'left out': ['skipped', 'skip'],
  'left as they were': ['left unchanged', 'leave unchanged'],
  'opt-ins passed over': ['opt-ins skipped', 'skip opt-ins'],
  'taken back': ['undone', 'undo'],
  converted: ['converted', 'convert'],
  'did not convert': ['did not convert', 'not convert'],
};

/** What a task has done so far, "added 96, skipped 4"; `would`: what it would do, "add 96, skip 4". */
export const countsWords = (counts: TaskView['counts'], would = false): string =>
  Object.entries(counts)
    .filter(([, count]) => count > 0)
    .map(([what, count]) => `${COUNTED[what]?.[would ? 1 : 0] ?? what} ${grouped(count)}`)
    .join(', ');

/** One task with how far it is, and what can still be done about it. */
export function TaskLine({ task, client }: { task: TaskView; client: string }) {
  const { colors } = useTheme();
  const { mutate } = useSWRConfig();
  const [sure, setSure] = useState(false);
  const underWay = isUnderWay(task);
  const { act, busy, problem } = useAct(() =>
    mutate((key) => typeof key === 'string' && key.startsWith(`/clients/${client}/tasks`)),
  );
  const post = (what: 'stop' | 'undo') =>
    act(async () => {
      await ask('POST', `/clients/${client}/tasks/${task.id}/${what}`, {});
      setSure(false);
    });
  const part = task.total ? Math.min(1, task.done / task.total) : null;
  return (
    <View style={{ paddingVertical: 8, borderTopWidth: 1, borderColor: colors.line, gap: 4 }}>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', gap: 8 }}>
        <StateShape
          tone={
            task.state === 'failed'
              ? 'failing'
              : underWay
                ? 'live'
                : task.state === 'stopped'
                  ? 'warning'
                  : 'quiet'
          }
        />
        <Words kind="strong" numberOfLines={1} style={{ flexShrink: 1 }}>
          {task.title}
        </Words>
        <Words kind="small" aria-live={underWay ? 'polite' : undefined}>
          {[
            STATES[task.state],
            underWay && task.total
              ? `${grouped(task.done)} of ${grouped(task.total)}`
              : underWay
                ? grouped(task.done)
                : countsWords(task.counts),
            underWay ? null : whenWords(task.madeAt),
          ]
            .filter(Boolean)
            .join(' · ')}
        </Words>
        <View style={{ flex: 1 }} />
        {underWay && task.state !== 'stopping' && (
          <QuietButton
            outlined
            title="Stop"
            label={`Stop ${task.title}`}
            disabled={busy}
            onPress={() => void post('stop')}
          />
        )}
        {task.canUndo && !sure && (
          <QuietButton outlined title="Undo" label={`Undo ${task.title}`} onPress={() => setSure(true)} />
        )}
        {task.canUndo && sure && (
          <>
            <QuietButton title="Cancel" onPress={() => setSure(false)} />
            <QuietButton
              outlined
              tone="red"
              title={`Undo ${task.title}`}
              disabled={busy}
              onPress={() => void post('undo')}
            />
          </>
        )}
      </View>
      {underWay && (
        <View
          role="progressbar"
          aria-label={task.title}
          aria-valuenow={part === null ? undefined : Math.round(part * 100)}
          style={{ height: 4, borderRadius: 2, backgroundColor: colors.inset, overflow: 'hidden' }}
        >
          <View style={{ height: 4, width: `${(part ?? 0.15) * 100}%`, backgroundColor: colors.teal }} />
        </View>
      )}
      {[task.failure, problem].filter(Boolean).map((sentence) => (
        <Words key={sentence} kind="small" color="red">
          {sentence}
        </Words>
      ))}
    </View>
  );
}

/** What is or was done with many people lately. */
export function Tasks({
  client,
  most = 30,
  onlyUnderWay,
}: {
  client: string;
  most?: number;
  onlyUnderWay?: boolean;
}) {
  const { data } = useSWR<TaskView[], Error>(`/clients/${client}/tasks`, {
    refreshInterval: (tasks) => (tasks?.some(isUnderWay) ? 1_000 : 0),
  });
  const tasks = (data ?? [])
    .filter((task) => !onlyUnderWay || isUnderWay(task) || isWithin(task.madeAt, 10 * 60_000))
    .slice(0, most);
  return (
    <>
      {tasks.map((task) => (
        <TaskLine key={task.id} task={task} client={client} />
      ))}
    </>
  );
}
