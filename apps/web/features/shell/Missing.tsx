import { Page } from '../../ui/Page';
import { Empty } from '../../ui/parts';
import { TextLink } from '../../ui/press';

export function Missing() {
  return (
    <Page title="Page not found">
      <Empty
        title="There is nothing at this address"
        words="It may have been removed, or the link was cut short."
        action={<TextLink href="/">Open Today</TextLink>}
      />
    </Page>
  );
}
