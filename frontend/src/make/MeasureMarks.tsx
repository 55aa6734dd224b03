/** Everything that was measured, as lines in the view with what they say; labels stand clear of each other. */
import { Html, Line } from '@react-three/drei';
import { useMemo } from 'react';
import * as THREE from 'three';
import type { Measure } from '../api/client';
import { short } from '../controls/format';
import { INK } from '../theme/ink';
import { passed } from '../viewport/passed';
import { distance, saySpot, sayWays } from './measures';

/** px that a label takes, with some air. */
const LABEL = { width: 264, height: 46 };

type Props = { measures: Measure[]; skin: string | null; onDrop: (id: string) => void };

/** skin: the key of what stands there now: of what was measured on another, that is said. */
export function MeasureMarks({ measures, skin, onDrop }: Props) {
  const clear = useMemo(() => standClear(), []);
  return measures.map((measure, i) => (
    <Mark
      key={measure.id}
      measure={measure}
      stale={measure.skin !== skin}
      place={clear(i)}
      onDrop={() => onDrop(measure.id)}
    />
  ));
}

type Place = NonNullable<Parameters<typeof Html>[0]['calculatePosition']>;

/** Where the labels are on the page: each below those before it that it would cover. */
function standClear(): (index: number) => Place {
  const taken: [number, number][] = [];
  return (index) => (object, camera, size) => {
    const at = new THREE.Vector3().setFromMatrixPosition(object.matrixWorld).project(camera);
    const x = (at.x * 0.5 + 0.5) * size.width;
    let y = (0.5 - at.y * 0.5) * size.height;
    const covers = () =>
      taken
        .slice(0, index)
        .some(([ox, oy]) => Math.abs(ox - x) < LABEL.width && Math.abs(oy - y) < LABEL.height);
    for (let again = 0; again < 4 * index && covers(); again++) y += LABEL.height / 4;
    taken[index] = [x, y];
    return [x, y];
  };
}

type MarkProps = { measure: Measure; stale: boolean; place: Place; onDrop: () => void };

function Mark({ measure, stale, place, onDrop }: MarkProps) {
  const { start: from, end: to } = measure;
  const ends = to ? [from.point, to.point] : [from.point];
  const middle = new THREE.Vector3();
  for (const end of ends) middle.addScaledVector(new THREE.Vector3(...end), 1 / ends.length);
  return (
    <>
      {to && (
        <Line
          points={ends}
          color={stale ? INK.reference : INK.ink}
          lineWidth={1.6}
          depthTest={false}
          renderOrder={7}
          raycast={passed}
        />
      )}
      {ends.map((end) => (
        <SpotDot key={end.join()} at={end} />
      ))}
      <Html position={middle} calculatePosition={place} zIndexRange={[6, 5]} wrapperClass="see-through">
        <div className={`measured ${stale ? 'stale' : ''}`} data-mm={to ? distance(from, to) : undefined}>
          {to ? <b>{short(distance(from, to), 3)} mm</b> : <b>{saySpot(from)}</b>}
          <button type="button" aria-label="Take this measure away" onClick={onDrop}>
            ×
          </button>
          {to && <small>{sayWays(from, to)}</small>}
          {stale && <small>the piece has changed since</small>}
        </div>
      </Html>
    </>
  );
}

/** A spot in the view, as large as a finger can see. */
export function SpotDot({ at, colour = INK.ink }: { at: [number, number, number]; colour?: string }) {
  return (
    <Html position={at} center zIndexRange={[5, 4]} wrapperClass="see-through">
      <i className="spot-dot" style={{ background: colour }} />
    </Html>
  );
}
