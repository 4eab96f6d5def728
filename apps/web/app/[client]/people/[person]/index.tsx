export { Person as default } from '../../../../features/people/Person';
