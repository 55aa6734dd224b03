/** Where a part stands. */
import { useQuery } from '@tanstack/react-query';
import type { Part } from '../../api/client';
import { type Floor, useEditor } from '../../controls/editor';
import { NumberField } from '../../controls/fields/NumberField';
import type { Open } from '../../controls/PieceFrame';
import type { Actions } from '../actions';
import { PlaceButtons } from './PlaceButtons';

type Box = [[number, number, number], [number, number, number]];
type PlaceProps = { open: Open; part: Part; box: Box; matrix: number[]; actions: Actions };

export function PlaceFields({ open, part, box, matrix, actions }: PlaceProps) {
  const floor = useEditor((s) => s.floor);
  const height = useHeight(open, part.id, floor);
  const [x, y] = [matrix[3] ?? 0, matrix[7] ?? 0];
  const base = floor ? height : box[0][2];
  const by = (dx: number, dy: number, dz: number) => actions.move([part.id], [dx, dy, dz]);
  return (
    <div className="section">
      <h3>Place</h3>
      <div className="fields">
        <NumberField
          label="Across"
          title="to the right of the wheel's middle"
          value={x}
          disabled={part.locked}
          onApply={(v) => by(v - x, 0, 0)}
        />
        <NumberField
          label="Away"
          title="behind the wheel's middle"
          value={y}
          disabled={part.locked}
          onApply={(v) => by(0, v - y, 0)}
        />
        <NumberField
          label="Base at"
          title={`height of its lowest point over ${floor ? `the face of ${floor.name}` : 'the wheel'}`}
          value={base ?? 0}
          disabled={part.locked || base === null}
          onApply={(v) => (floor ? actions.setDown(v) : by(0, 0, v - box[0][2]))}
        />
      </div>
      <PlaceButtons actions={actions} locked={part.locked} />
    </div>
  );
}

/** How high a part's lowest point is over the face that is the floor for now; null while that is worked out. */
function useHeight(open: Open, id: string, floor: Floor | null): number | null {
  const found = useQuery({
    queryKey: ['height', open.id, open.state.revision, id, floor],
    queryFn: async () => {
      const { point, normal } = floor as Floor;
      const [carried] = await open.work.preview({
        kind: 'set_down',
        ids: [id],
        floor: { point, normal },
        height: 0,
      });
      const [x, y, z] = [3, 7, 11].map((i) => carried?.matrix[i] ?? 0) as [number, number, number];
      return -(x * normal[0] + y * normal[1] + z * normal[2]) + 0;
    },
    enabled: floor !== null,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return found.data ?? null;
}
