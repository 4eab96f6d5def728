export { Fields as default } from '../../features/people/Fields';
