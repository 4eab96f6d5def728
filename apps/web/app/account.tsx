export { Account as default } from '../features/more/Account';
