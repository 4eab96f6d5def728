import { useLayoutEffect, useRef } from 'react';

/**
 * What happens anywhere on the page, a key for one. It goes to the newest `onEvent`, which stands before the
 * page is painted: a key that is pressed as soon as something can be seen is not answered by what was there
 * before it.
 */
export function useWindowEvent<Type extends keyof WindowEventMap>(
  type: Type,
  onEvent: (event: WindowEventMap[Type]) => void,
): void {
  const newest = useRef(onEvent);
  useLayoutEffect(() => {
    newest.current = onEvent;
  });
  useLayoutEffect(() => {
    const listen = (event: WindowEventMap[Type]) => newest.current(event);
    window.addEventListener(type, listen);
    return () => window.removeEventListener(type, listen);
  }, [type]);
}
