/** What is said of parts themselves, as one edit. */
import type { PartFields } from '../../api/client';
import type { Open } from '../../controls/PieceFrame';

export const setPart = (open: Open, ids: string[], fields: Partial<PartFields>) =>
  void open.work.edit({ kind: 'set_part', ids, fields: fields as never });
