export { Sending as default } from '../../features/people/Sending';
