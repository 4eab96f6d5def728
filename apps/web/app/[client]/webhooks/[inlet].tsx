export { Inlet as default } from '../../../features/webhooks/Inlet';
