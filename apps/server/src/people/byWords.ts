import type { By } from '@dart-loop/contract';
import type { ChangedBy } from '../conversations/changes';

/** Who or what changed something, in words, with the place to go to. */
export function byWords(by: ChangedBy | null): By {
  if (by === null) return { words: 'the person', loopId: null, stepId: null };
  switch (by.kind) {
    case 'loop':
      return { words: `${by.loop}, version ${by.version}`, loopId: by.loopId, stepId: by.stepId };
    case 'person':
      return { words: 'the person', loopId: null, stepId: null };
    case 'merge':
      return { words: `merge (${by.name})`, loopId: null, stepId: null };
    default:
      return { words: by.name, loopId: null, stepId: null };
  }
}
