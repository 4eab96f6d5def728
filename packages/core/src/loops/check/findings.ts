import type { Loop } from '../model/loop';
import {
  CheckWorld,
  NOWHERE,
  type Check,
  type Fix,
  type Found,
  type Place,
  type Severity,
  type Surroundings,
} from './check';
import { CHECKS, STOPPING, type CheckCode } from './checks';
import { pathFindings, type PathCode } from './pathWords';

export type FindingCode = CheckCode | PathCode;

/** One thing that is wrong, risky, or good to know. Names the place, where there is one. Plain data. */
export interface Finding extends Place {
  code: FindingCode;
  severity: Severity;
  /** What of its place it is about; with code and place it names the finding. */
  about: string;
  /** One sentence that says what is wrong and what is expected. */
  reason: string;
  /** What takes it away, where that is safe. */
  fix: Fix | null;
  /** Why somebody has accepted it; null while nobody has. Only what warns can be accepted. */
  accepted: string | null;
}
export type Problem = Finding;

/** What stands in the way of publishing. */
export function problemsOf(loop: Loop, known: Surroundings = {}): Problem[] {
  return sorted(loop, run(STOPPING, new CheckWorld(loop, known))).filter(
    (finding) => finding.severity === 'stops',
  );
}

/** What warns and was not accepted: what a builder is asked about before publishing. */
export const openWarnings = (findings: readonly Finding[]): Finding[] =>
  findings.filter(({ severity, accepted }) => severity === 'warns' && accepted === null);

/**
 * Everything that is wrong, risky or good to know in a loop, in the order of the loop. Pure; a loop of 300
 * steps takes some milliseconds.
 */
export function findingsOf(loop: Loop, known: Surroundings = {}): Finding[] {
  return findingsIn(new CheckWorld(loop, known));
}

/** As {@link findingsOf}, for who has the world already. */
export const findingsIn = (world: CheckWorld): Finding[] =>
  sorted(world.loop, [...run(CHECKS, world), ...pathFindings(world)]);

const run = (checks: readonly Check<FindingCode>[], world: CheckWorld): Found<FindingCode>[] =>
  checks.flatMap((check) => [...check.find(world)]);

function sorted(loop: Loop, found: Found<FindingCode>[]): Finding[] {
  const scenes = new Map(loop.scenes.map((scene, index) => [scene.id, index]));
  const steps = new Map(loop.scenes.flatMap((scene) => scene.steps).map((step, index) => [step.id, index]));
  const cues = new Map(loop.cues.map((cue, index) => [cue.id, index]));
  const order = (each: Place) =>
    each.cueId !== null
      ? 1_000 + (cues.get(each.cueId) ?? 0)
      : each.sceneId === null
        ? 0
        : 10_000 * (1 + (scenes.get(each.sceneId) ?? 0)) +
          (each.stepId === null ? 0 : 1 + (steps.get(each.stepId) ?? 0));
  return found
    .map((each): Finding => {
      const finding = { ...NOWHERE, about: '', fix: null, accepted: null, ...each };
      return { ...finding, accepted: finding.severity === 'warns' ? reasonFor(loop, finding) : null };
    })
    .sort((a, b) => order(a) - order(b));
}

/**
 * Names a finding over edits of the loop: what it says may change with the numbers of scenes, this does not.
 */
export const findingKey = ({
  code,
  sceneId,
  stepId,
  cueId,
  about,
}: Omit<Finding, 'accepted' | 'fix' | 'reason' | 'severity'>): string =>
  [code, cueId ?? stepId ?? sceneId ?? '', about].join('|');

function reasonFor(loop: Loop, finding: Finding): string | null {
  const key = findingKey(finding);
  return loop.accepted?.find((each) => each.finding === key)?.reason ?? null;
}

/** The loop with a finding accepted for a reason, or (null) no longer. */
export function accept(loop: Loop, finding: Finding, reason: string | null): Loop {
  const key = findingKey(finding);
  const rest = (loop.accepted ?? []).filter((each) => each.finding !== key);
  const accepted = reason === null ? rest : [...rest, { finding: key, reason }];
  const { accepted: _before, ...bare } = loop;
  return accepted.length > 0 ? { ...bare, accepted } : bare;
}
