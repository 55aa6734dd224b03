/** Coarser skins: fewer triangles between the same corners, so that colours, normals and parts stay as they are. */
import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import { LEVELS } from './levels';

/** Of its own size: as far as a skin may be off. */
const MOST_OFF = 0.05;
/** Where edges and seams keep more than so many times what was asked for, they give way too. */
const TOO_MANY = 1.5;

/** positions: corner after corner, x y z. index: corners by threes. The coarser indices, the finest first. */
export async function coarser(positions: Float32Array, index: Uint32Array): Promise<Uint32Array[]> {
  await MeshoptSimplifier.ready;
  const found: Uint32Array[] = [];
  let last = index;
  for (let level = 1; level <= LEVELS; level++) {
    const target = 3 * Math.ceil(index.length / 3 / 2 ** level);
    let [next] = MeshoptSimplifier.simplify(last, positions, 3, target, MOST_OFF, ['Permissive']);
    if (next.length > TOO_MANY * target)
      [next] = MeshoptSimplifier.simplifySloppy(last, positions, 3, null, target, 4 * MOST_OFF);
    next = next.length > 0 ? next.slice() : last;
    found.push(next);
    last = next;
  }
  return found;
}

/** A share of the triangles at once, without regard to edges and seams. */
export async function roughly(
  positions: Float32Array,
  index: Uint32Array,
  share: number,
): Promise<Uint32Array> {
  await MeshoptSimplifier.ready;
  const target = 3 * Math.ceil((index.length / 3) * share);
  return MeshoptSimplifier.simplifySloppy(index, positions, 3, null, target, 1)[0].slice();
}
