import type { LoopState } from '@dart-loop/contract';

/** How a state reads, and what it means for those in the loop. */
export const STATE_WORDS: Record<LoopState, string> = {
  live: 'live',
  paused: 'paused: nobody new starts, people in it go on',
  stopped: 'stopped: nobody starts, and nobody is in it',
  'never published': 'never published',
  archived: 'archived',
};
