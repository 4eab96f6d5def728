import { useState, type ReactNode } from 'react';
import { View } from 'react-native';
import { Field } from '../../ui/Field';
import { Words } from '../../ui/Words';

/** From so many on, they are searched. */
const SEARCHED = 8;

/** Those whose names have what is typed in them. */
export const withName = <T extends { name: string }>(all: readonly T[], typed: string): T[] =>
  all.filter(({ name }) => name.toLowerCase().includes(typed.trim().toLowerCase()));

/** Clients, found by typing where there are many; `finder` stands above them, and says if none is found. */
export function useFound<T extends { name: string }>(all: readonly T[]): { found: T[]; finder: ReactNode } {
  const [sought, setSought] = useState('');
  const found = withName(all, sought);
  return {
    found,
    finder: (
      <>
        {all.length >= SEARCHED && (
          <View style={{ maxWidth: 420, marginBottom: 12 }}>
            <Field label="Find a client" value={sought} onChangeText={setSought} autoCapitalize="none" />
          </View>
        )}
        {all.length > 0 && found.length === 0 && <NoneFound sought={sought} />}
      </>
    ),
  };
}

/** No client is called like that. */
export const NoneFound = ({ sought }: { sought: string }) => (
  <Words kind="small">{`No client’s name has “${sought.trim()}” in it.`}</Words>
);
