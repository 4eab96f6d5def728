export { Webhooks as default } from '../../../features/webhooks/Webhooks';
