/**
 * The inbox, which two addresses show. It is imported only by `import('…/needsInbox')`, as `needsEngine.ts`
 * says.
 */
export { Inbox } from './inbox/Inbox';
