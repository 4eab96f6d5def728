/** Makes the partitions of the month before, this month and the three that follow. */
export async function makeMonths(
  db: { query(text: string, values: unknown[]): Promise<unknown> },
  now: number,
): Promise<void> {
  const today = new Date(now);
  for (let ahead = -1; ahead <= 3; ahead++) {
    const month = new Date(Date.UTC(today.getUTCFullYear(), today.getUTCMonth() + ahead, 1));
    await db.query('select make_month($1::date)', [month.toISOString().slice(0, 10)]);
  }
}
