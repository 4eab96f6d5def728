import { lazy } from 'react';
import { Loaded } from '../../features/shell/Loaded';

const Inbox = lazy(() => import('../../features/needsInbox').then((parts) => ({ default: parts.Inbox })));

export default function InboxScreen() {
  return (
    <Loaded>
      <Inbox />
    </Loaded>
  );
}
