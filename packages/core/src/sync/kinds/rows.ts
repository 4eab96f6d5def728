import { z } from 'zod';
import { OutsideAddress } from '../../engine/steps/outsideAddress';
import { below, columnsBelow, type DestinationKind } from './kind';

export const RowsSettings = z
  .object({
    /** Where rows are: POST appends one, PUT ADDRESS/KEY writes the row of that key. */
    address: OutsideAddress,
    /** The column whose value names a person's row; absent: each delivery appends one. */
    key: z.string().trim().min(1).max(100).optional(),
  })
  .strict();

/** Rows of a sheet over HTTP: appended, or one a person, written anew by its key. */
export const rows: DestinationKind<z.infer<typeof RowsSettings>> = {
  kind: 'rows',
  words: 'Rows of a sheet',
  settings: RowsSettings,
  needsToken: true,
  takes: [],
  next({ address, key }, parcel, [reply]) {
    const { cells } = parcel.row;
    if (reply)
      return {
        kind: 'done',
        theirId: null,
        words: key === undefined ? 'appended a row' : `wrote the row of ${String(cells[key])}`,
      };
    const headers = { 'idempotency-key': parcel.id };
    if (key === undefined) return { kind: 'call', call: { method: 'POST', address, headers, body: cells } };
    const value = cells[key];
    if (value === undefined || Array.isArray(value))
      return { kind: 'refused', reason: `nothing is known for “${key}”, which names the person’s row` };
    const place = below(address, String(value));
    return { kind: 'call', call: { method: 'PUT', address: place, headers, body: cells } };
  },
  columns: columnsBelow,
};
