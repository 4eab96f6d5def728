import type { Target } from '@dart-loop/core/loops/model/basics';
import { TickRow } from '../../../ui/rows';
import { TargetMenu, type SceneName } from '../TargetMenu';

/** An exit that a step may have: ticked, it leads to `first`, and elsewhere as it is chosen. */
export function OptionalExit({
  label,
  of,
  to,
  first = 'next',
  scenes,
  onChange,
}: {
  label: string;
  /** How the exit is called where its target is chosen. */
  of: string;
  to: Target | undefined;
  first?: Target;
  scenes: SceneName[];
  onChange: (to: Target | undefined) => void;
}) {
  return (
    <>
      <TickRow label={label} on={to !== undefined} onChange={(on) => onChange(on ? first : undefined)} />
      {to !== undefined && <TargetMenu scenes={scenes} to={to} of={of} onChoose={onChange} />}
    </>
  );
}
