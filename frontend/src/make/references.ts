/** Reference pictures: how their planes lie, and how files become some. */
import * as THREE from 'three';
import { answered, api, type ReferencePicture, rawBody, said } from '../api/client';
import type { components } from '../api/generated';
import { newRequestId } from '../api/pieces';
import { useWork } from '../api/work';
import type { Vector } from '../controls/editor';
import type { Open } from '../controls/PieceFrame';
import { wholeBox } from '../viewport/boxes';

type Plane = NonNullable<ReferencePicture['plane']>;
export type Reference = Required<ReferencePicture>;

export const MOST_PICTURES = 6;
export const PICTURE_ENDINGS = '.png,.jpg,.jpeg,.webp';

export const PLANES: { value: Plane; word: string }[] = [
  { value: 'front', word: 'from the front' },
  { value: 'side', word: 'from the right' },
  { value: 'floor', word: 'on the floor' },
];

/** Which way the picture's right and its upper edge lie, and which way it looks. */
const WAYS: Record<Plane, [Vector, Vector]> = {
  front: [
    [1, 0, 0],
    [0, 0, 1],
  ],
  side: [
    [0, 1, 0],
    [0, 0, 1],
  ],
  floor: [
    [1, 0, 0],
    [0, 1, 0],
  ],
};

export const picturesAmong = (files: Iterable<File>): File[] =>
  [...files].filter((f) => PICTURE_ENDINGS.split(',').some((e) => f.name.toLowerCase().endsWith(e)));

/** mm from its lower to its upper edge. */
export const heightOf = ({ width, pixels }: Reference): number => (width * pixels[1]) / pixels[0];

/** From a square of 1 mm about the middle of the floor to the picture's place on the wheel. */
export function matrixOfPicture(picture: Reference): THREE.Matrix4 {
  const [right, up] = WAYS[picture.plane].map((v) => new THREE.Vector3(...v)) as [
    THREE.Vector3,
    THREE.Vector3,
  ];
  return new THREE.Matrix4()
    .makeBasis(right, up, right.clone().cross(up))
    .setPosition(new THREE.Vector3(...picture.middle))
    .scale(new THREE.Vector3(picture.width, heightOf(picture), 1));
}

/** Where a ray meets the plane of a picture; null beside its edges, unless `beyond` them counts too. */
export function onPicture(ray: THREE.Ray, picture: Reference, beyond = false): THREE.Vector3 | null {
  const place = matrixOfPicture(picture);
  const normal = new THREE.Vector3().setFromMatrixColumn(place, 2).normalize();
  const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(normal, new THREE.Vector3(...picture.middle));
  const at = ray.intersectPlane(plane, new THREE.Vector3());
  if (!at) return null;
  const own = at.clone().applyMatrix4(place.clone().invert());
  return beyond || Math.max(Math.abs(own.x), Math.abs(own.y)) <= 0.5 ? at : null;
}

/** Larger or smaller, so that two of its points are so far apart, mm; the first stays where it is. */
export function scaledBy(picture: Reference, from: Vector, to: Vector, apart: number): Reference {
  const factor = apart / new THREE.Vector3(...from).distanceTo(new THREE.Vector3(...to));
  const middle = picture.middle.map((v, k) => {
    const held = from[k] as number;
    return tidy(held + (v - held) * factor);
  }) as Vector;
  return { ...picture, middle, width: tidy(picture.width * factor) };
}

export const tidy = (v: number) => Number(v.toFixed(6));

export const keepReference = (open: Open, picture: Reference) =>
  open.work.edit({ kind: 'keep_picture', picture });

/** Sends pictures to the server and stands them behind what is there, as high as that; what is refused is told. */
export async function bringInPictures(open: Open, files: File[]): Promise<string | null> {
  let last: string | null = null;
  try {
    for (const file of files) {
      const kept = await answered<components['schemas']['PictureAnswer']>(
        api.POST('/api/pictures', rawBody(file)),
      );
      const picture = standing(open, {
        ...kept,
        id: newRequestId(),
        name: file.name.replace(/\.[^.]*$/, '').slice(0, 80) || 'Picture',
      });
      if (await keepReference(open, picture)) last = picture.id;
    }
  } catch (error) {
    useWork.setState({ refusal: said(error) });
  }
  return last;
}

/** mm: a picture on an empty wheel. */
const HIGH_ALONE = 60;

const round = (v: number) => Number(v.toFixed(1));

/** Behind what is there, its foot on the floor. */
function standing(open: Open, kept: Pick<Reference, 'id' | 'name' | 'asset' | 'ending' | 'pixels'>) {
  const box = wholeBox(open.state.scene);
  const height = open.known.size ? Math.max(20, box.max.z - Math.min(0, box.min.z)) : HIGH_ALONE;
  const middle = box.getCenter(new THREE.Vector3());
  const picture: Reference = {
    ...kept,
    plane: 'front',
    width: Math.max(1, round((height * kept.pixels[0]) / kept.pixels[1])),
    middle: [round(middle.x), round(box.max.y + 10), round(height / 2)],
    opacity: 0.6,
    hidden: false,
    locked: false,
  };
  return picture;
}
