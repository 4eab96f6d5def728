export { TestPhone as default } from '../../features/phone/TestPhone';
