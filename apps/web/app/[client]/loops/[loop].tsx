export { Script as default } from '../../../features/loops/Script';
