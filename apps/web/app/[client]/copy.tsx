export { CopySetUpPage as default } from '../../features/clients/CopySetUpPage';
