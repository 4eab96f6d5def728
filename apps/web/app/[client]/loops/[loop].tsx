export { Workbench as default } from '../../../features/loops/Workbench';
