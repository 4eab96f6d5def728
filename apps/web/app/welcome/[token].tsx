export { Welcome as default } from '../../features/accounts/Welcome';
