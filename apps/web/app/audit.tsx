export { Audit as default } from '../features/accounts/Audit';
