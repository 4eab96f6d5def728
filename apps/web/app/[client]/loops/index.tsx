export { Loops as default } from '../../../features/loops/Loops';
