export { Brief as default } from '../../features/clients/Brief';
