export { Api as default } from '../../features/api/Api';
