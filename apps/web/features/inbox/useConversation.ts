import { useState } from 'react';
import useSWR from 'swr';
import type { ConversationAct, ConversationPage } from '@dart-loop/contract';
import { may } from '@dart-loop/contract/roles';
import { ask } from '../session/api';
import { useSession } from '../session/useSession';

/** One conversation, and what the person who looks at it may do with it. */
export function useConversation(client: string, id: string) {
  const path = `/clients/${client}/conversations/${id}`;
  const { data, error, mutate } = useSWR<ConversationPage, Error>(path);
  const session = useSession();
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Error | null>(null);
  const account = session.data?.account;
  /** Resolves to whether it was taken. What it does is seen a moment later, when the lane has done it. */
  const act = async (what: ConversationAct): Promise<boolean> => {
    setBusy(true);
    setProblem(null);
    try {
      await ask('POST', `${path}/acts`, what);
      return true;
    } catch (failure) {
      setProblem(failure as Error);
      return false;
    } finally {
      setBusy(false);
      void mutate();
    }
  };
  return {
    data,
    error,
    mutate,
    path,
    act,
    busy,
    problem,
    me: account?.name ?? '',
    mayAnswer: account !== undefined && may(account, 'answer conversations'),
  };
}
