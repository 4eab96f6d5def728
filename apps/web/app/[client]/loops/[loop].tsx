import { lazy } from 'react';
import { Loaded } from '../../../features/shell/Loaded';

const Workbench = lazy(() =>
  import('../../../features/needsEngine').then((parts) => ({ default: parts.Workbench })),
);

export default function WorkbenchScreen() {
  return (
    <Loaded>
      <Workbench />
    </Loaded>
  );
}
