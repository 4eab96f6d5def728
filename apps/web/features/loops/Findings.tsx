import { Words } from '../../ui/Words';
import type { Finding } from '@dart-loop/core';

const MARKS = { stops: ['◆', 'ochre'], warns: ['◇', 'quiet'] } as const;

/** A mark in the margin where something was found; the worst of it. */
export function FindingMark({ findings }: { findings: Finding[] }) {
  if (findings.length === 0) return null;
  const [mark, color] = MARKS[findings.some((finding) => finding.severity === 'stops') ? 'stops' : 'warns'];
  return (
    <Words color={color} style={{ fontSize: 13 }} aria-hidden>
      {mark}
    </Words>
  );
}

/** What was found at a place, a sentence each: what stops the publishing first. */
export function FindingLines({ findings }: { findings: Finding[] }) {
  const sorted = [...findings].sort((a, b) => Number(a.severity === 'warns') - Number(b.severity === 'warns'));
  return sorted.map(({ reason, severity }) => (
    <Words key={reason} kind="small" color={MARKS[severity][1]} style={{ paddingVertical: 4 }}>
      {`${MARKS[severity][0]} ${reason}`}
    </Words>
  ));
}
