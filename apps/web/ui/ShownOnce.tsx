import { webStyle } from './onWeb';
import { Sheet } from './parts';
import { Words } from './Words';

/** A secret that is told this once, to be copied. `more`: what is done with it besides. */
export function ShownOnce({ title, secret, more = '' }: { title: string; secret: string; more?: string }) {
  return (
    <Sheet style={{ padding: 16, gap: 6 }}>
      <Words kind="strong">{title}</Words>
      <Words kind="code" selectable color="ink" style={webStyle({ wordBreak: 'break-all' })}>
        {secret}
      </Words>
      <Words kind="small">
        {`Copy it now: it is shown this once, and only its last four characters are kept.${more && ` ${more}`}`}
      </Words>
    </Sheet>
  );
}
