import type { By } from '@dart-loop/contract';
import { hint } from '../../../ui/onWeb';
import { PlaceLink } from '../../../ui/press';
import { exact, whenWords } from '../../../ui/time';
import { Words } from '../../../ui/Words';

/** Who or what set something, and when; leads to the step of the loop, for those who may see it. */
export function Provenance({ by, at, client, link }: { by: By; at: string; client: string; link: boolean }) {
  const words = (
    <Words kind="small" {...hint(exact(at))}>
      {'set by '}
      <Words kind="smallStrong" color={link && by.loopId ? 'teal' : 'quiet'}>
        {by.words}
      </Words>
      {`, ${whenWords(at)}`}
    </Words>
  );
  return link && by.loopId ? (
    <PlaceLink href={`/${client}/loops/${by.loopId}#${by.stepId ?? ''}`} style={{ minHeight: 24 }}>
      {words}
    </PlaceLink>
  ) : (
    words
  );
}
