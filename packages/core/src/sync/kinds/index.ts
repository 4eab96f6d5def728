import type { DestinationKind } from './kind';
import { contact } from './contact';
import { file } from './file';
import { rows } from './rows';
import { webhook } from './webhook';

/** Every kind of destination there is. A new one is a file here and its line. */
export const DESTINATION_KINDS = { webhook, contact, rows, file } as const;
export type DestinationKindName = keyof typeof DESTINATION_KINDS;

/** A kind by its name, with settings that its own schema has read. */
export const destinationKind = (name: DestinationKindName): DestinationKind<never> =>
  DESTINATION_KINDS[name] as unknown as DestinationKind<never>;
