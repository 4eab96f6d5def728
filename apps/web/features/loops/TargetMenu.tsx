import type { Loop } from '@dart-loop/core';
import { targetWords } from '@dart-loop/core/model/loop';
import { Menu } from '../../ui/Menu';
import { Words } from '../../ui/Words';

/** Where an exit leads, as words that open the list of scenes. */
export function TargetMenu({
  loop,
  to,
  of,
  onChoose,
  onNewScene,
  quiet,
}: {
  loop: Loop;
  to: string;
  of: string;
  onChoose: (to: string) => void;
  onNewScene: () => void;
  quiet?: boolean;
}) {
  const missing = to !== 'next' && to !== 'end' && !loop.scenes.some((scene) => scene.id === to);
  return (
    <Menu
      compact
      label={`${of} leads to ${targetWords(loop, to)}. Change`}
      title={`“${of}” leads to`}
      items={[
        ...loop.scenes.map((scene, index) => ({
          key: scene.id,
          words: `${index + 1} ${scene.name}`,
          chosen: scene.id === to,
          onChoose: () => onChoose(scene.id),
        })),
        { key: '+', words: 'a new scene', onChoose: onNewScene },
        { key: 'next', words: 'the next step', chosen: to === 'next', onChoose: () => onChoose('next') },
        { key: 'end', words: 'the end', chosen: to === 'end', onChoose: () => onChoose('end') },
      ]}
    >
      <Words kind="small" color={missing ? 'red' : quiet ? 'quiet' : 'teal'} style={{ fontSize: 15 }}>
        {`→ ${targetWords(loop, to)}`}
      </Words>
    </Menu>
  );
}
