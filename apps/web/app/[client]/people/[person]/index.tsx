export { Person as default } from '../../../../features/people/person/Person';
