import {
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import type { ReactNode } from 'react';
import { View } from 'react-native';
import { onWeb, webStyle } from '../../ui/onWeb';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';

/** What is dragged, or dropped on: a step, the end of a scene, a scene. */
export type Dragged = { step: string } | { end: string } | { scene: string };
const keyOf = (what: Dragged) => Object.entries(what)[0]!.join(':');
const readKey = (key: string): Dragged => {
  const [kind, id] = key.split(/:(.*)/s) as ['step' | 'end' | 'scene', string];
  return { [kind]: id } as Dragged;
};

/**
 * Within it, steps and scenes are dragged by their handles: by mouse, by touch, and with Space and the
 * arrows.
 */
export function Dragging({
  onDrop,
  children,
}: {
  onDrop: (what: Dragged, onto: Dragged) => void;
  children: ReactNode;
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor),
  );
  const dropped = ({ active, over }: DragEndEvent) => {
    if (over && active.id !== over.id) onDrop(readKey(String(active.id)), readKey(String(over.id)));
  };
  return (
    <DndContext sensors={sensors} onDragEnd={dropped}>
      {children}
    </DndContext>
  );
}

/** Where something can be dropped: a line shows that it would come before what stands here. */
export function DropPlace({ what, children }: { what: Dragged; children?: ReactNode }) {
  const { colors } = useTheme();
  const { setNodeRef, isOver } = useDroppable({ id: keyOf(what) });
  return (
    <View
      ref={setNodeRef as never}
      style={{
        borderTopWidth: 2,
        borderColor: isOver ? colors.teal : 'transparent',
        minHeight: children ? undefined : 8,
      }}
    >
      {children}
    </View>
  );
}

/** What it is dragged by. */
export function Handle({ what, label }: { what: Dragged; label: string }) {
  const { setNodeRef, listeners, attributes, isDragging } = useDraggable({ id: keyOf(what) });
  const { colors, wide } = useTheme();
  return (
    <View
      ref={setNodeRef as never}
      {...listeners}
      {...onWeb({ ...attributes, tabIndex: -1, 'aria-label': label, 'aria-roledescription': 'handle' })}
      style={webStyle({
        width: wide ? 28 : 44,
        height: wide ? 28 : 44,
        marginRight: wide ? 0 : -10,
        alignItems: 'center',
        justifyContent: 'center',
        cursor: 'grab',
        touchAction: 'none',
        borderRadius: 4,
        backgroundColor: isDragging ? colors.inset : undefined,
      })}
    >
      <Words aria-hidden color="quiet" style={{ fontSize: 13, lineHeight: 16 }}>
        ⋮⋮
      </Words>
    </View>
  );
}
