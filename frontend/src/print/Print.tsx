/** Print: how the piece lies on the bed, whether it stands, what printing it takes, and taking it out. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import * as THREE from 'three';
import {
  type Bed,
  type Checked,
  useBed,
  useCutApart,
  useKeepBed,
  useLying,
  usePrintCheck,
  usePrintDetails,
  useTriedOut,
} from '../api/printing';
import { PieceFrame, useOpenPiece } from '../controls/PieceFrame';
import type { ViewHandle } from '../viewport/View';
import { BedStage } from './BedStage';
import { boxOnBed, inARow } from './bedPlaces';
import { CutApart } from './CutApart';
import type { PrintLook } from './looks';
import { OnBed } from './OnBed';
import { Rehearsal } from './Rehearsal';

export function Print() {
  const { open, failure, reload } = useOpenPiece();
  const view = useRef<ViewHandle>({ rig: null, camera: null, canvas: null }).current;
  const id = open?.id ?? '';
  const state = open?.state;
  const known = useBed(id);
  const keep = useKeepBed(id);
  // What is being made, or cannot be, is not looked over.
  const wait = Boolean(state?.making || state?.problem) || keep.isPending;
  const revision = wait ? undefined : state?.revision;
  const lying = useLying(id, revision, known?.bed);
  const { job, again } = usePrintCheck(id, revision, known?.bed);
  const done = job?.state === 'done' ? job : undefined;
  const details = usePrintDetails(done?.id);
  const cutting = useCutApart(id, state?.revision, known?.bed);
  const [look, setLook] = useState<PrintLook>('solid');
  const [spot, setSpot] = useState<THREE.Vector3 | null>(null);
  const [layer, setLayer] = useState<number | null>(null);

  const printer = known?.printers.find((p) => p.name === known.bed.printer);
  // What is tried out is seen as solid, and is of this revision only.
  const [trying, setTrying] = useState<{ of: number; how: string; edit: unknown } | null>(null);
  const tried = trying?.of === revision ? trying : null;
  const triedOut = useTriedOut(id, revision, known?.bed, tried?.edit ?? null);
  const wide = printer?.bed[0] ?? 200;
  const found = (tried && triedOut.data) || lying.data;
  const lies = useMemo(
    () =>
      found && {
        ...inARow(found, wide),
        beside: found.beside.map((other) => ({ ...other, lies: other.lies && inARow(other.lies, wide) })),
      },
    [found, wide],
  );
  const tryOut = useCallback(
    (how: string, edit: unknown) => {
      setLook('solid');
      setTrying((now) =>
        now?.of === revision && now?.how === how ? null : { of: revision ?? -1, how, edit },
      );
    },
    [revision],
  );
  const set = useCallback(
    (changes: Partial<Bed>) => known && keep.mutate({ ...known.bed, ...changes }),
    [known, keep],
  );

  // All of it comes into sight when it comes to lie otherwise.
  const shape =
    lies && printer
      ? JSON.stringify([lies.size, lies.spots, lies.beside.map((b) => b.lies?.spots), printer.bed])
      : '';
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for every other way to lie
  useEffect(() => {
    if (lies) view.rig?.frame(boxOnBed(lies), false);
    setSpot(null);
  }, [shape, view]);
  // A check of another state has other layers.
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for every check
  useEffect(() => setLayer(null), [done?.id]);

  // What has just been cut is what one wants to see.
  const parts = cutting.parts;
  useEffect(() => setLook((now) => (parts ? 'parts' : now === 'parts' ? 'solid' : now)), [parts]);

  const follow = (layer: number) => {
    setLook('layers');
    setLayer(layer);
  };
  const show = (at: number[]) => {
    const first = lies?.spots[0] ?? [0, 0, false, 0];
    const place = new THREE.Vector3(...(at as [number, number, number]));
    if (first[2]) place.set(-place.y, place.x, place.z);
    place.add(new THREE.Vector3(first[0], first[1], 0));
    setSpot(place);
    const reach = new THREE.Vector3().setScalar(Math.max(4, 0.12 * Math.hypot(...(lies?.size ?? [0]))));
    view.rig?.frame(new THREE.Box3(place.clone().sub(reach), place.clone().add(reach)));
  };

  return (
    <PieceFrame
      open={open}
      stage="Print"
      failure={failure}
      undo={() => void open?.work.undo()}
      redo={() => void open?.work.redo()}
    >
      {open && (
        <main className="columns print">
          <OnBed
            open={open}
            known={known}
            lies={lies}
            kept={lying.data}
            failure={lying.error}
            wrong={keep.error ?? triedOut.error}
            set={set}
            tried={tried?.how ?? null}
            tryOut={tryOut}
          />
          <BedStage
            open={open}
            view={view}
            reload={reload}
            relay={() => void (tried ? triedOut : lying).refetch()}
            printer={printer}
            lies={lies}
            job={done?.id}
            checked={done?.result as Checked | undefined}
            bed={known?.bed}
            cut={cutting.job && parts ? { job: cutting.job.id, parts } : null}
            look={look}
            setLook={setLook}
            layer={layer}
            setLayer={setLayer}
            spot={spot}
          />
          <Rehearsal
            open={open}
            job={job}
            again={again}
            lies={lies}
            copies={known?.bed.copies ?? 1}
            details={details}
            show={show}
            follow={follow}
          >
            {known && printer && (
              <CutApart open={open} bed={known.bed} printer={printer} cutting={cutting} set={set} />
            )}
          </Rehearsal>
        </main>
      )}
    </PieceFrame>
  );
}
