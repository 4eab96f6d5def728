export { ProofPage as default } from '../../../../features/people/person/ProofPage';
