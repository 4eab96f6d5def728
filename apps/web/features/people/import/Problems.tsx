import { View } from 'react-native';
import type { ImportSpec, TaskView } from '@dart-loop/contract';
import { Field } from '../../../ui/Field';
import { useTheme } from '../../../ui/theme';
import { Words } from '../../../ui/Words';
import { grouped } from '../../../ui/time';

/** So many are shown; the rest are counted. */
const MOST_SHOWN = 100;

/**
 * Rows that are not taken as they are, each cell with its reason and, where it can be, a field to put it
 * right.
 */
export function Problems({
  task,
  mends = {},
  setMends,
  canMend = false,
}: {
  task: TaskView;
  mends?: ImportSpec['mends'];
  setMends?: (next: ImportSpec['mends']) => void;
  canMend?: boolean;
}) {
  const { colors } = useTheme();
  if (task.problems.length === 0) return null;
  return (
    <View role="group" aria-label="Cells that cannot be read">
      <Words kind="heading">{`Cells that cannot be read: ${grouped(task.problems.length)}`}</Words>
      {task.problems.slice(0, MOST_SHOWN).map(({ row, column, cell, reason }, index) => (
        <View key={index} style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 8, gap: 4 }}>
          <Words kind="small" color="ink">
            {[row > 0 && `Row ${row}`, column && `column ${column}`].filter(Boolean).join(', ')}
            {cell ? `: “${cell.slice(0, 80)}”` : ''}
          </Words>
          <Words kind="small" color="ochre">{`◆ ${reason}`}</Words>
          {canMend && setMends && column !== null && (
            <Field
              label={`Row ${row}, ${column}, corrected`}
              hideLabel
              placeholder="corrected"
              value={mends[String(row)]?.[column] ?? ''}
              onChangeText={(next) =>
                setMends({ ...mends, [String(row)]: { ...mends[String(row)], [column]: next } })
              }
            />
          )}
        </View>
      ))}
      {task.problems.length > MOST_SHOWN && (
        <Words kind="small">{`${task.problems.length - MOST_SHOWN} more of the same kind are not shown.`}</Words>
      )}
    </View>
  );
}
