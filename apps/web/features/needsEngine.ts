/**
 * Everything that needs the engine, as one part that is loaded when the first of it is opened. Whatever two
 * parts share is loaded with the first page, so nothing here may be imported in any other way than
 * `import('…/needsEngine')`.
 */
export { OpenWords } from './hours/OpenWords';
export { Workbench } from './loops/Workbench';
export { Destination } from './sync/Destination';
export { freshId } from '@dart-loop/core/loops/model/loop';
export { takeOfConversation, withTakes } from '@dart-loop/core/loops/takes/keepTake';
