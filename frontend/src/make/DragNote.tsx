/** While parts are dragged: by how much, and where to. */

import { useEditor } from '../controls/editor';
import { short } from '../controls/format';
import type { Open } from '../controls/PieceFrame';

export function DragNote({ open }: { open: Open }) {
  const drag = useEditor((s) => s.drag);
  if (!drag) return null;
  const view = open.state.scene?.parts.find((p) => p.id === drag.ids[0]);
  const [x, y] = [(view?.matrices[0]?.[3] ?? 0) + drag.by[0], (view?.matrices[0]?.[7] ?? 0) + drag.by[1]];
  const [dx, dy, dz] = drag.by.map((v) => short(v, 1));
  return (
    <output className="note numbers">
      moved {dx}, {dy}
      {drag.by[2] !== 0 && `, ${dz}`} mm · now across {short(x, 2)}, away {short(y, 2)}
    </output>
  );
}
