import { useState } from 'react';
import { ScrollView, View } from 'react-native';
import type { Finding } from '@dart-loop/core';
import type { Examined } from '@dart-loop/core/loops/check/examine';
import type { TakePlayed } from '@dart-loop/core/loops/takes/takes';
import { Choice } from '../../../ui/Choice';
import { Waiting } from '../../../ui/parts';
import { Words } from '../../../ui/Words';
import { FindingLine, toMend, WORST } from '../Findings';
import type { StepActions } from '../stepActions';
import { PathList } from './PathList';
import { TakeList } from './TakeList';

const SEVERITIES = { stops: 'Stops publishing', warns: 'Risky', notes: 'Good to know' } as const;

/** Everything that was found, all paths, and the takes: what to clear before publishing. */
export function ChecksPane({
  examined,
  actions,
  show,
  rehearsePath,
  takes,
}: {
  examined: Examined | null;
  actions: Pick<StepActions, 'accept' | 'fix'>;
  show: (finding: Finding) => void;
  rehearsePath: (at: number) => void;
  takes: { accept(played: TakePlayed): void; remove(takeId: string): void; rehearse(takeId: string): void };
}) {
  const [part, setPart] = useState<'findings' | 'paths' | 'takes'>('findings');
  if (!examined) return <Waiting words="Checking" />;
  const { findings, paths, cut } = examined;
  const open = toMend(findings);
  const covered = paths.filter((path) => path.takes.length > 0).length;
  const changed = examined.takes.filter((take) => take.changed > 0).length;
  return (
    <View role="region" aria-label="Checks" style={{ flex: 1, gap: 8, minHeight: 0 }}>
      <View
        role="radiogroup"
        aria-label="What to see"
        style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 6 }}
      >
        <Choice
          words={`Findings ${open.length}`}
          chosen={part === 'findings'}
          onChoose={() => setPart('findings')}
        />
        <Choice
          words={`Paths ${paths.length}${cut ? '+' : ''}`}
          chosen={part === 'paths'}
          onChoose={() => setPart('paths')}
        />
        <Choice
          words={
            changed > 0
              ? `Takes ${examined.takes.length}, ${changed} changed`
              : `Takes ${examined.takes.length}`
          }
          chosen={part === 'takes'}
          onChoose={() => setPart('takes')}
        />
      </View>
      <ScrollView style={{ flex: 1 }} contentContainerStyle={{ gap: 8, paddingBottom: 24 }} tabIndex={0}>
        {part === 'findings' && <FindingList findings={findings} actions={actions} show={show} />}
        {part === 'paths' && (
          <>
            <Words kind="small">
              {`${paths.length === 1 ? '1 path' : `${paths.length} paths`}, ${covered === 1 ? '1 has' : `${covered} have`} a take.${cut ? ` ${cut}` : ''} A tap rehearses one.`}
            </Words>
            <PathList paths={paths} onChoose={rehearsePath} />
          </>
        )}
        {part === 'takes' && <TakeList takes={examined.takes} {...takes} />}
      </ScrollView>
    </View>
  );
}

function FindingList({
  findings,
  actions,
  show,
}: {
  findings: readonly Finding[];
  actions: Pick<StepActions, 'accept' | 'fix'>;
  show: (finding: Finding) => void;
}) {
  const accepted = findings.filter((finding) => finding.accepted !== null);
  if (findings.length === 0)
    return (
      <Words color="quiet">
        No findings. Every scene can be reached, nobody waits for ever, and every text fits its channels.
      </Words>
    );
  return (
    <>
      {WORST.map((severity) => {
        const own = findings.filter((finding) => finding.severity === severity && finding.accepted === null);
        return own.length === 0 ? null : (
          <View key={severity} role="list" aria-label={SEVERITIES[severity]}>
            <Words kind="smallStrong">{`${SEVERITIES[severity]} · ${own.length}`}</Words>
            {own.map((finding) => (
              <View
                key={`${finding.code}|${finding.stepId ?? finding.sceneId ?? finding.cueId}|${finding.about}`}
                role="listitem"
              >
                <FindingLine
                  finding={finding}
                  actions={actions}
                  onShow={
                    finding.sceneId || finding.stepId || finding.cueId ? () => show(finding) : undefined
                  }
                />
              </View>
            ))}
          </View>
        );
      })}
      {accepted.length > 0 && (
        <View role="list" aria-label="Accepted">
          <Words kind="smallStrong">{`Accepted · ${accepted.length}`}</Words>
          {accepted.map((finding) => (
            <View
              key={`${finding.code}|${finding.stepId ?? finding.sceneId ?? finding.cueId}|${finding.about}`}
              role="listitem"
            >
              <FindingLine finding={finding} actions={actions} onShow={() => show(finding)} />
            </View>
          ))}
        </View>
      )}
    </>
  );
}
