import { targetWords } from '@dart-loop/core/loops/model/loop';
import { Menu } from '../../ui/Menu';
import { Words } from '../../ui/Words';

export interface SceneName {
  id: string;
  name: string;
}

/**
 * Where an exit leads, as words that open the list of scenes; a tap on the arrow's words, with Ctrl, goes
 * there.
 */
export function TargetMenu({
  scenes,
  to,
  of,
  onChoose,
  onNewScene,
  onGo,
}: {
  scenes: readonly SceneName[];
  to: string;
  of: string;
  onChoose: (to: string) => void;
  onNewScene?: () => void;
  /** Goes to the scene that it leads to. */
  onGo?: (sceneId: string) => void;
}) {
  const leadsTo = targetWords({ scenes }, to);
  const missing = to !== 'next' && to !== 'end' && !scenes.some((scene) => scene.id === to);
  const there = scenes.some((scene) => scene.id === to);
  return (
    <Menu
      compact
      label={`${of} leads to ${leadsTo}. Change`}
      title={`“${of}” leads to`}
      items={[
        ...(onGo && there
          ? [{ key: 'go', words: `Go to ${leadsTo}`, more: 'a bar leads back', onChoose: () => onGo(to) }]
          : []),
        ...scenes.map((scene, index) => ({
          key: `scene ${scene.id}`,
          words: `${index + 1} ${scene.name}`,
          chosen: scene.id === to,
          onChoose: () => onChoose(scene.id),
        })),
        ...(onNewScene ? [{ key: '+', words: 'a new scene', onChoose: onNewScene }] : []),
        { key: 'next', words: 'the next step', chosen: to === 'next', onChoose: () => onChoose('next') },
        { key: 'end', words: 'the end', chosen: to === 'end', onChoose: () => onChoose('end') },
      ]}
    >
      <Words kind="small" color={missing ? 'red' : 'teal'} style={{ fontSize: 15 }}>
        {`→ ${leadsTo}`}
      </Words>
    </Menu>
  );
}
