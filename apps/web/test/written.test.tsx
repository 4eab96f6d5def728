import { act, renderHook } from '@testing-library/react-native';
import { useWritten } from '../features/session/useWritten';

test('what others change stands here until something is written; what is written stays, with the revision that it was begun from', async () => {
  const { result, rerender } = await renderHook(
    ({ text, revision }: { text: string; revision: string }) => useWritten({ text }, revision),
    {
      initialProps: { text: 'one', revision: 'r1' },
    },
  );
  await rerender({ text: 'two', revision: 'r2' });
  expect(result.current).toMatchObject({ written: { text: 'two' }, changed: false, seen: 'r2' });
  await act(() => result.current.write(({ text }) => ({ text: `${text}, mine` })));
  await rerender({ text: 'three', revision: 'r3' });
  expect(result.current).toMatchObject({ written: { text: 'two, mine' }, changed: true, seen: 'r2' });
  await act(() => result.current.write(({ text }) => ({ text: `${text}, more` })));
  expect(result.current).toMatchObject({ written: { text: 'two, mine, more' }, seen: 'r2' });
  await act(() => result.current.leave());
  expect(result.current).toMatchObject({ written: { text: 'three' }, changed: false, seen: 'r3' });
});
