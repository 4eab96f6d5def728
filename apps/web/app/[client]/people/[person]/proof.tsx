export { ProofPage as default } from '../../../../features/people/ProofPage';
