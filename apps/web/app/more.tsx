export { More as default } from '../features/shell/More';
