import { lazy } from 'react';
import { Loaded } from '../features/shell/Loaded';

const Team = lazy(() => import('../features/needsForms').then((parts) => ({ default: parts.Team })));

export default function TeamScreen() {
  return (
    <Loaded>
      <Team />
    </Loaded>
  );
}
