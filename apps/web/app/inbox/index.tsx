export { Inbox as default } from '../../features/inbox/Inbox';
