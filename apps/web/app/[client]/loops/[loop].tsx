import { loaded } from '../../../features/shell/loaded';

export default loaded(() => import('../../../features/needsEngine').then((parts) => parts.Workbench));
