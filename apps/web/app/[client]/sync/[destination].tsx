export { Destination as default } from '../../../features/sync/Destination';
