import { loaded } from '../features/shell/loaded';

export default loaded(() => import('../features/needsForms').then((parts) => parts.AgencyModel));
