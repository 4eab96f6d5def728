import { Suspense, lazy, type ComponentType } from 'react';
import { View } from 'react-native';
import { usePageInset } from '../../ui/Page';
import { Waiting } from '../../ui/parts';

/** A screen whose program is loaded when it is opened. */
export function loaded(load: () => Promise<ComponentType>): ComponentType {
  const Screen = lazy(async () => ({ default: await load() }));
  return function LoadedScreen() {
    const inset = usePageInset();
    return (
      <Suspense
        fallback={
          <View style={inset}>
            <Waiting />
          </View>
        }
      >
        <Screen />
      </Suspense>
    );
  };
}
