export { Lists as default } from '../../features/people/Lists';
