/** The piece as it is glazed, at every spot where a copy of it lies. */
import { useMemo } from 'react';
import type { Lying } from '../api/printing';
import type { Known } from '../controls/tree';
import { ResultMesh } from '../viewport/ResultMesh';
import { placingOf, spotsOf } from './bedPlaces';

type Props = {
  result: { key: string; parts: string[]; triangles: number };
  known: Map<string, Known>;
  lies: Lying;
  onLost: () => void;
};

const NOTHING = new Set<string>();

export function LyingPieces({ result, known, lies, onLost }: Props) {
  const matrices = useMemo(() => spotsOf(lies).map((spot) => spot.multiply(placingOf(lies))), [lies]);
  const shown = { key: result.triangles ? result.key : null, parts: result.parts };
  return matrices.map((matrix, i) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: a copy has no other name
    <group key={i} matrix={matrix} matrixAutoUpdate={false}>
      <ResultMesh
        result={shown}
        known={known}
        held={NOTHING}
        without={NOTHING}
        lit={null}
        ghost={false}
        onLost={onLost}
      />
    </group>
  ));
}
