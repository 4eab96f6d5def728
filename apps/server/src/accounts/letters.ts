import type { For } from './links';

/** What stands in the mail with a link. */
export function letterOf(
  kind: For['kind'],
  link: string,
  { by, agency }: { by: string | null; agency: string },
): { subject: string; text: string } {
  if (kind === 'invitation')
    return {
      subject: `${by ?? agency} invites you to Dart Loop`,
      text: `${by ?? agency} invites you to the Dart Loop of ${agency}.\n\nChoose your name and password here, within 7 days:\n${link}\n\nThe link counts once. If you expected nothing like this, leave it.\n`,
    };
  return {
    subject: 'A new password for Dart Loop',
    text: `Choose a new password for the Dart Loop of ${agency} here, within an hour:\n${link}\n\nThe link counts once. If you did not ask for it, leave it: your password stays as it is.\n`,
  };
}
