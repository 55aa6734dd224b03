/** The copies of a part, in words, and taking them away. */
import type { Copies, Part } from '../api/client';
import { plural, short } from '../controls/format';
import type { Open } from '../controls/PieceFrame';

export function CopiesNote({ open, part }: { open: Open; part: Part }) {
  return (
    <div className="section">
      <h3>
        Copies
        <button
          type="button"
          className="bare quiet"
          onClick={() =>
            void open.work.edit({ kind: 'set_part', ids: [part.id], fields: { copies: null } as never })
          }
        >
          take away
        </button>
      </h3>
      <div>{sayCopies(part.copies as Copies)}</div>
    </div>
  );
}

function sayCopies(copies: Copies): string {
  const steps = (step: number[]) => step.map((s) => short(s)).join(', ');
  switch (copies.kind) {
    case 'row':
      return `A row of ${copies.count}, each ${steps(copies.step)} mm on`;
    case 'ring':
      return `A ring of ${copies.count} about ${copies.axis}, ${short(copies.angle)}° apart`;
    case 'twin':
      return `A twin across ${copies.axis} = ${short(copies.at)} mm`;
    case 'grid':
      return `A grid of ${copies.counts.join(' × ')}, ${steps(copies.step)} mm apart`;
    case 'path':
      return `Along a path of ${plural(copies.points.length, 'point')}`;
  }
}
