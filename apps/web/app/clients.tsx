export { Clients as default } from '../features/clients/Clients';
