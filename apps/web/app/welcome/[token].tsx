import { lazy } from 'react';
import { Loaded } from '../../features/shell/Loaded';

const Welcome = lazy(() => import('../../features/needsForms').then((parts) => ({ default: parts.Welcome })));

export default function WelcomeScreen() {
  return (
    <Loaded>
      <Welcome />
    </Loaded>
  );
}
