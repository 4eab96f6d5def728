export { SignIn as default } from '../features/session/SignIn';
