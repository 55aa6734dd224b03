/** Measuring: between two points, caught by corners, edges and middles; of one point its height, radius and thickness. */
import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { create } from 'zustand';
import { type MeasuredSpot as Spot, said } from '../../api/client';
import { newRequestId } from '../../api/pieces';
import { useWork } from '../../api/work';
import { latest } from '../../controls/latest';
import { INK } from '../../theme/ink';
import { wholeBox } from '../../viewport/boxes';
import { firstHit, mmPerPixel, rayNumbers } from '../../viewport/pointer';
import { useFacePointer } from '../../viewport/useFacePointer';
import { SpotDot } from '../MeasureMarks';
import { saySpot } from '../measures';
import { Leave } from './Leave';
import type { ToolProps, ViewTool } from './tool';

export const MEASURE: ViewTool = {
  name: 'measure',
  button: { under: 'view', word: 'Measure', title: 'T: between two points, or what there is at one' },
  InScene: Measuring,
  Note: MeasureNote,
};

/** How near the pointer has to come to be caught. */
const REACH_PX = 10;

/** The spot that is pointed at, and the first of two. */
const useSpots = create<{ over: Spot | null; first: Spot | null }>(() => ({ over: null, first: null }));

const keep = ({ open }: ToolProps, start: Spot, end?: Spot) =>
  open.work.edit({
    kind: 'keep_measure',
    measure: { id: newRequestId(), skin: open.state.scene?.result?.key ?? 'none', start, end },
  });

function Measuring(props: ToolProps) {
  const { open } = props;
  const { gl, get } = useThree();
  const { over, first } = useSpots();
  const spotOf = useMemo(
    () => (ray: THREE.Raycaster) => {
      const hit = firstHit(ray, get().scene);
      // Beside it, as far as its middle is.
      const at = hit?.point ?? wholeBox(open.state.scene).getCenter(new THREE.Vector3());
      const reach = REACH_PX * mmPerPixel(get().camera, gl.domElement, at);
      return open.work.spot({ ...rayNumbers(ray), reach: Math.min(reach, 1000) });
    },
    [open, gl, get],
  );
  const hover = useMemo(() => latest(spotOf, (_, spot) => useSpots.setState({ over: spot })), [spotOf]);
  useEffect(() => () => useSpots.setState({ over: null, first: null }), []);
  const pick = async (ray: THREE.Raycaster) => {
    try {
      const spot = await spotOf(ray);
      const { first: from } = useSpots.getState();
      if (from) void keep(props, from, spot);
      useSpots.setState({ first: from ? null : spot });
    } catch (error) {
      useWork.setState({ refusal: said(error) });
    }
  };
  useFacePointer({ over: hover, pick: (ray) => void pick(ray) });
  return (
    <>
      {over && <SpotDot at={over.point} colour={over.kind === 'surface' ? INK.reference : INK.keep} />}
      {first && <SpotDot at={first.point} colour={INK.chosen} />}
    </>
  );
}

function MeasureNote(props: ToolProps) {
  const { over, first } = useSpots();
  const { work, state } = props.open;
  const ids = state.piece.measures?.map((m) => m.id) ?? [];
  const keepPoint = () => {
    if (!first) return;
    void keep(props, first);
    useSpots.setState({ first: null });
  };
  return (
    <section className="panel" aria-label="Measure">
      <span>
        <b>Measure:</b> {first ? 'click where to measure to' : 'click a point'}
        <span className="quiet" data-testid="measured-spot">
          {first ? ` from ${saySpot(first)}` : over ? ` ${saySpot(over)}` : ''}
        </span>
      </span>
      {first && (
        <button type="button" className="plain small" onClick={keepPoint}>
          Keep this point
        </button>
      )}
      {ids.length > 0 && (
        <button
          type="button"
          className="plain small"
          onClick={() => void work.edit({ kind: 'drop_measures', ids })}
        >
          Take all away
        </button>
      )}
      <Leave />
    </section>
  );
}
