import { useState } from 'react';
import { View } from 'react-native';
import type { Finding } from '@dart-loop/core';
import { Field } from '../../ui/Field';
import { QuietButton } from '../../ui/press';
import { Words } from '../../ui/Words';
import { useMerging } from './merging';
import type { StepActions } from './stepActions';

const MARKS = { stops: ['◆', 'ochre'], warns: ['◇', 'quiet'], notes: ['·', 'quiet'] } as const;
export const WORST = ['stops', 'warns', 'notes'] as const;
const SEVERITY_WORDS = { stops: 'stops publishing', warns: 'risky', notes: 'good to know' } as const;

/** What is still to be looked at: neither accepted nor only good to know. */
export const toMend = (findings: readonly Finding[]) =>
  findings.filter(({ severity, accepted }) => severity !== 'notes' && accepted === null);

/** A mark in the margin where something was found; the worst of it. */
export function FindingMark({ findings }: { findings: readonly Finding[] }) {
  const open = toMend(findings);
  const worst = WORST.find((severity) => open.some((finding) => finding.severity === severity));
  if (!worst) return null;
  const [mark, color] = MARKS[worst];
  return (
    <Words color={color} style={{ fontSize: 13 }} role="img" aria-label={SEVERITY_WORDS[worst]}>
      {mark}
    </Words>
  );
}

/**
 * What was found at a place, a sentence each, with what can be done about it: what stops the publishing
 * first.
 */
export function FindingLines({
  findings,
  actions,
}: {
  findings: readonly Finding[];
  actions: Pick<StepActions, 'accept' | 'fix'>;
}) {
  return [...toMend(findings)]
    .sort((a, b) => WORST.indexOf(a.severity) - WORST.indexOf(b.severity))
    .map((finding) => (
      <FindingLine key={`${finding.code} ${finding.about}`} finding={finding} actions={actions} />
    ));
}

/** One finding: its sentence, its fix, and accepting it with a reason. */
export function FindingLine({
  finding,
  actions,
  onShow,
}: {
  finding: Finding;
  actions: Pick<StepActions, 'accept' | 'fix'>;
  /** Goes to its place in the script. */
  onShow?: () => void;
}) {
  const { severity, fix, accepted } = finding;
  const { written } = useMerging('');
  const reason = written(finding.reason);
  const [why, setWhy] = useState<string | null>(null);
  const [mark, color] = MARKS[severity];
  return (
    <View style={{ paddingVertical: 4 }}>
      <Words kind="small" color={accepted === null ? color : 'quiet'}>{`${mark} ${reason}`}</Words>
      {accepted !== null && <Words kind="small">{`Accepted: ${accepted}`}</Words>}
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'center', columnGap: 8 }}>
        {fix && accepted === null && (
          <QuietButton title={written(fix.words)} tone="teal" onPress={() => actions.fix(finding)} />
        )}
        {onShow && <QuietButton title="Show" label={`Show where: ${reason}`} tone="teal" onPress={onShow} />}
        {severity === 'warns' && accepted === null && why === null && (
          <QuietButton title="Accept" label={`Accept: ${reason}`} tone="quiet" onPress={() => setWhy('')} />
        )}
        {accepted !== null && (
          <QuietButton
            title="Reopen"
            label={`Reopen: ${reason}`}
            tone="quiet"
            onPress={() => actions.accept(finding, null)}
          />
        )}
      </View>
      {why !== null && (
        <View style={{ flexDirection: 'row', flexWrap: 'wrap', alignItems: 'flex-end', gap: 8 }}>
          <View style={{ flexGrow: 1, minWidth: 160 }}>
            <Field
              label="Why is this acceptable?"
              placeholder="Everybody here has given a name"
              value={why}
              autoFocus
              onChangeText={setWhy}
              onSubmitEditing={() => why.trim() && actions.accept(finding, why.trim())}
            />
          </View>
          <QuietButton
            outlined
            title="Accept"
            disabled={!why.trim()}
            onPress={() => actions.accept(finding, why.trim())}
          />
          <QuietButton title="Cancel" onPress={() => setWhy(null)} />
        </View>
      )}
    </View>
  );
}
