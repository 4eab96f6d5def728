export { Missing as default } from '../features/shell/Missing';
