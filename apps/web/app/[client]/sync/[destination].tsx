import { lazy } from 'react';
import { Loaded } from '../../../features/shell/Loaded';

const Destination = lazy(() =>
  import('../../../features/needsEngine').then((parts) => ({ default: parts.Destination })),
);

export default function DestinationScreen() {
  return (
    <Loaded>
      <Destination />
    </Loaded>
  );
}
