import { View } from 'react-native';
import { hint } from '../../../ui/onWeb';
import useSWR from 'swr';
import type { LoopEvent, LoopPage, VersionRow } from '@dart-loop/contract';
import { Dialog } from '../../../ui/Menu';
import { QuietButton } from '../../../ui/press';
import { Failure, Refused, Waiting } from '../../../ui/parts';
import { useTheme } from '../../../ui/theme';
import { exact, whenWords } from '../../../ui/time';
import { Words } from '../../../ui/Words';
import { counted } from '@dart-loop/core/language/counted';
import { ask } from '../../session/api';
import { useAct } from '../../session/useAct';

const people = (count: number) => counted(count, 'person', 'people');

/**
 * Every version that was published, newest first: what it changed, who is on the way on it, and the way back
 * to it.
 */
export function Versions({
  path,
  open,
  onClose,
  changed,
}: {
  path: string;
  open: boolean;
  onClose: () => void;
  changed: (page?: LoopPage) => void;
}) {
  const { colors } = useTheme();
  const { data, error, mutate } = useSWR<VersionRow[], Error>(open ? `${path}/versions` : null);
  const { data: history } = useSWR<LoopEvent[], Error>(open ? `${path}/history` : null);
  const { act: does, problem } = useAct(mutate);
  const live = data?.find((version) => version.live);
  const behind = (data ?? [])
    .filter((version) => !version.live)
    .reduce((sum, version) => sum + version.peopleInIt, 0);
  const act = (what: 'roll-back' | 'move', body: object) =>
    does(async () => changed(await ask<LoopPage | undefined>('POST', `${path}/${what}`, body)));
  return (
    <Dialog title="Versions and history" open={open} onClose={onClose}>
      <View style={{ padding: 12, gap: 12 }}>
        <Refused problem={problem} />
        {error && !data && <Failure error={error} again={() => void mutate()} />}
        {!data && !error && <Waiting />}
        {live && behind > 0 && (
          <View style={{ gap: 4 }}>
            <Words kind="small">{`${people(behind)} on the way on another version. Moving takes along whoever waits at a step that version ${live.version} still has; the others finish on theirs.`}</Words>
            <View style={{ alignSelf: 'flex-start' }}>
              <QuietButton
                outlined
                title={`Move ${people(behind)} to version ${live.version}`}
                onPress={() => void act('move', {})}
              />
            </View>
          </View>
        )}
        <View role="list" aria-label="Versions">
          {data?.map((version) => (
            <View
              key={version.version}
              role="listitem"
              style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 8, gap: 2 }}
            >
              <View
                style={{
                  flexDirection: 'row',
                  justifyContent: 'space-between',
                  alignItems: 'center',
                  gap: 8,
                }}
              >
                <Words kind="strong" color={version.live ? 'vermilion' : 'ink'}>
                  {version.live ? `● Version ${version.version}, live` : `Version ${version.version}`}
                </Words>
                {!version.live && (
                  <QuietButton
                    title="Restore"
                    label={`Restore version ${version.version}`}
                    tone="teal"
                    onPress={() => void act('roll-back', { version: version.version })}
                  />
                )}
              </View>
              <Words kind="small" {...hint(exact(version.publishedAt))}>
                {`${whenWords(version.publishedAt)}${version.publishedBy ? `, ${version.publishedBy}` : ''}${version.peopleInIt > 0 ? ` · ${people(version.peopleInIt)} on the way` : ''}`}
              </Words>
              <Words kind="small" color="ink">
                {version.changes.join('; ')}
              </Words>
            </View>
          ))}
        </View>
        {history && history.length > 0 && (
          <View role="list" aria-label="History" style={{ gap: 4 }}>
            <Words kind="smallStrong">History</Words>
            {history.map((event, at) => (
              <View key={at} role="listitem">
                <Words kind="small" {...hint(exact(event.at))}>
                  {`${whenWords(event.at)}: ${event.by ?? 'the program'} ${event.words}`}
                </Words>
              </View>
            ))}
          </View>
        )}
      </View>
    </Dialog>
  );
}
