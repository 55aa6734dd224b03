/** Pieces as they are glazed, at every spot where a copy of one lies. */
import { useMemo } from 'react';
import type { Lying, Spots } from '../api/printing';
import type { Known } from '../controls/tree';
import { ResultMesh } from '../viewport/ResultMesh';
import { matricesOf } from './bedPlaces';

type Props = {
  result: { key: string; parts: string[]; triangles: number };
  known: Map<string, Known>;
  lies: Spots;
  /** It lies in the middle where it finds no room. */
  alone: boolean;
  onLost: () => void;
};

const NOTHING = new Set<string>();

type Coloured = Pick<Lying['beside'][number], 'result' | 'colours' | 'lies'>;

/** A piece that is not the open one as it is kept: its parts are known by their colours only. */
export function LyingColoured({
  shown: { result, colours, lies },
  alone,
  onLost,
}: {
  shown: Coloured;
  alone: boolean;
  onLost: () => void;
}) {
  const known = useMemo(
    () => new Map(Object.entries(colours).map(([id, colour]) => [id, colouredOnly(colour)])),
    [colours],
  );
  if (!result || !lies) return null;
  return <LyingPieces result={result} known={known} lies={lies} alone={alone} onLost={onLost} />;
}

const colouredOnly = (colour: string): Known => ({
  part: {} as Known['part'],
  parent: null,
  index: 0,
  depth: 0,
  colour,
  opacity: 1,
  role: 'union',
  reference: false,
  hidden: false,
});

export function LyingPieces({ result, known, lies, alone, onLost }: Props) {
  const matrices = useMemo(() => matricesOf(lies, alone), [lies, alone]);
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
