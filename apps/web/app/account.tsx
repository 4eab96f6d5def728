export { Account as default } from '../features/accounts/Account';
