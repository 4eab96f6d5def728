export { Sync as default } from '../../../features/sync/Sync';
