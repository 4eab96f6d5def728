import { PickRow, TextRow } from '../../../../ui/rows';
import type { CueEditor, OwnProps } from './cueEditor';

export const tag: CueEditor<'tag'> = {
  words: 'A tag',
  more: 'added or removed',
  fresh: () => ({ kind: 'tag', tag: 'new tag', when: 'added' }),
  Own,
};

function Own({ cue, set }: OwnProps<'tag'>) {
  return (
    <>
      <TextRow label="Tag" placeholder="vip" value={cue.tag} onChange={(tag) => set({ tag })} />
      <PickRow
        label="When it is"
        value={cue.when}
        options={
          [
            ['added', 'added'],
            ['removed', 'removed'],
          ] as const
        }
        onChange={(when) => set({ when })}
      />
    </>
  );
}
