/** What a dragged part was caught by: a line to it, and its name. */
import { Html, Line } from '@react-three/drei';
import type { Snap } from '../controls/editor';
import { INK } from '../theme/ink';
import { passed } from './passed';

export function SnapMarks({ snaps }: { snaps: Snap[] }) {
  return snaps.map(({ from, to, words }) => (
    <group key={words}>
      <Line
        points={[from, to]}
        color={INK.keep}
        lineWidth={1.5}
        dashed
        dashSize={1.4}
        gapSize={0.9}
        depthTest={false}
        renderOrder={6}
        raycast={passed}
      />
      <Html position={from} center zIndexRange={[6, 0]}>
        <div className="catch">{words}</div>
      </Html>
    </group>
  ));
}
