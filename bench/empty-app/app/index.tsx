import { Text } from 'react-native';

/** The empty app that the web app's weight is measured against. */
export default function Index() {
  return <Text>Nothing</Text>;
}
