import { useEffect, type Dispatch, type SetStateAction } from 'react';
import { fromSourcesLine, performed, type Session } from '@dart-loop/core/engine/rehearsal/session';
import type { FromSources } from '@dart-loop/core/engine/steps/fromSources';
import { ask } from '../../session/api';

/**
 * What a rehearsal asks of the sources is asked of the server's, as they are now; what they say is a line of
 * the rehearsal like all else, so that a take keeps it.
 */
export function useSourcesAsked(
  client: string,
  session: Session,
  setSession: Dispatch<SetStateAction<Session>>,
): void {
  const [errand] = session.rehearsal.errands;
  const asked = errand?.kind === 'ask sources' ? errand : null;
  const { channel } = session.opening;
  useEffect(() => {
    if (!asked) return;
    let isOver = false;
    const says = (line: string) =>
      setSession((before) => (before.rehearsal.errands[0] === asked ? performed(before, line) : before));
    ask<FromSources>('POST', `/clients/${client}/sources/to-say`, {
      message: asked.question,
      before: asked.before,
      channel,
    }).then(
      (said) => !isOver && says(fromSourcesLine(said)),
      () => !isOver && says('! failed'),
    );
    return () => {
      isOver = true;
    };
  }, [asked, channel, client, setSession]);
}
