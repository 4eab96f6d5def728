export { Team as default } from '../features/accounts/Team';
