import { lazy } from 'react';
import { Loaded } from '../features/shell/Loaded';

const Clients = lazy(() => import('../features/needsForms').then((parts) => ({ default: parts.Clients })));

export default function ClientsScreen() {
  return (
    <Loaded>
      <Clients />
    </Loaded>
  );
}
