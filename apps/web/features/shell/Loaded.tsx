import { Suspense, type ReactNode } from 'react';
import { View } from 'react-native';
import { usePageInset } from '../../ui/Page';
import { Waiting } from '../../ui/parts';

/** A screen whose program is loaded when it is opened. */
export function Loaded({ children }: { children: ReactNode }) {
  const inset = usePageInset();
  return (
    <Suspense
      fallback={
        <View style={inset}>
          <Waiting />
        </View>
      }
    >
      {children}
    </Suspense>
  );
}
