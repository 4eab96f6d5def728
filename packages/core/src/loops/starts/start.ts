/** A loop to begin with: taken in as it is, then worded and pointed as the client needs it. */
export interface Start {
  name: string;
  /** What it does, in a sentence, for whoever chooses. */
  words: string;
  /** What the client must have for it to go live; absent where a line is enough. */
  needs?: 'calendar' | 'comments';
  /** As a loop file. */
  file: string;
}
