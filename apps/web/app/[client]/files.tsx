export { Files as default } from '../../features/files/Files';
