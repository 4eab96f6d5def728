/**
 * The screens that read what is written by a schema, with the form engine, as one part. It is imported only
 * by `import('…/needsForms')`, as `needsEngine.ts` says.
 */
export { Account } from './accounts/Account';
export { FirstRun } from './accounts/FirstRun';
export { Team } from './accounts/Team';
export { Welcome } from './accounts/Welcome';
export { AgencyModel } from './answers/model/AgencyModel';
export { ClientModel } from './answers/model/ClientModel';
export { Sheet } from './answers/Sheet';
export { SourceView } from './answers/SourceView';
export { Sources } from './answers/Sources';
export { TryPage } from './answers/TryPage';
export { Unanswered } from './answers/Unanswered';
export { Clients } from './clients/Clients';
export { Files } from './files/Files';
