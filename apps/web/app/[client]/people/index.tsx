export { People as default } from '../../../features/people/People';
