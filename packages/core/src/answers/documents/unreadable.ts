/** Why a document cannot be read, as a sentence for people. */
export class Unreadable extends Error {}
