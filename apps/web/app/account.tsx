import { lazy } from 'react';
import { Loaded } from '../features/shell/Loaded';

const Account = lazy(() => import('../features/needsForms').then((parts) => ({ default: parts.Account })));

export default function AccountScreen() {
  return (
    <Loaded>
      <Account />
    </Loaded>
  );
}
