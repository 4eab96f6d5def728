import { loaded } from '../../../features/shell/loaded';

export default loaded(() => import('../../../features/needsInbox').then((parts) => parts.Inbox));
