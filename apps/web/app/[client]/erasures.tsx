export { Erasures as default } from '../../features/people/Erasures';
