/** What of a person is being changed. */
export type Editing =
  | { what: 'name' }
  | { what: 'field'; key: string | null }
  | { what: 'tag' }
  | { what: 'list' }
  | { what: 'opt out' }
  | { what: 'erase' }
  | { what: 'merge'; other: string };
