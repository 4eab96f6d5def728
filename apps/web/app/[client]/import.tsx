export { Import as default } from '../../features/people/Import';
