import { useLocalSearchParams } from 'expo-router';
import { AnswersPage } from './AnswersPage';
import { TryIt } from './TryIt';

/** Asks the client's sources, on a page of its own. */
export function TryPage() {
  const { client } = useLocalSearchParams<{ client: string }>();
  return (
    <AnswersPage
      client={client}
      tab="Try it"
      back={{ href: '/more', words: 'More', onPhoneOnly: true }}
      about="Ask as a customer would. Nobody gets a message."
    >
      <TryIt client={client} />
    </AnswersPage>
  );
}
