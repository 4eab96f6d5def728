export { People as default } from '../../../features/people/list/People';
