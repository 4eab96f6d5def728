export { Import as default } from '../../features/people/import/Import';
