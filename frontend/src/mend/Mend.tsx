/** Mend: what was found, shown on the piece, and what can be done about it. */

import { useEffect, useRef, useState } from 'react';
import * as THREE from 'three';
import { ended, usePieceJobs } from '../api/jobs';
import { PieceFrame, useOpenPiece } from '../controls/PieceFrame';
import { wholeBox } from '../viewport/boxes';
import type { ViewHandle } from '../viewport/View';
import type { Comparing } from './Comparison';
import { Findings } from './Findings';
import type { Finding, Fix } from './finding';
import { Plan } from './Plan';
import { Stage } from './Stage';
import { useCompared } from './useCompared';
import { useFindings } from './useFindings';
import { useFixes } from './useFixes';

export function Mend() {
  const { open, failure, reload } = useOpenPiece();
  const view = useRef<ViewHandle>({ rig: null, camera: null, canvas: null }).current;
  const scene = open?.state.scene ?? null;
  const jobs = usePieceJobs(open?.id ?? '');
  const found = useFindings(open);
  const compared = useCompared(scene, jobs);
  const fixes = useFixes(open);
  const [now, setNow] = useState<string | null>(null);
  const [look, setLook] = useState<Comparing>('after');
  const [wiped, wipe] = useState(0.5);
  const mending = jobs.some((j) => j.kind === 'mend' && !ended(j));
  const run = mending ? null : (fix: Fix) => void fixes.run(fix);

  // What is brought in is seen, wherever it stands.
  const parts = scene?.parts.length ?? 0;
  const before = useRef(parts);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for every part that comes
  useEffect(() => {
    if (before.current > 0 && parts > before.current) view.rig?.frame(wholeBox(scene));
    before.current = parts;
  }, [parts]);

  const show = (id: string) => {
    setNow(id);
    setLook('after');
    const finding = found.listed.find((f) => f.id === id);
    if (!finding || !scene) return;
    const { box, outward } = placeOf(finding, wholeBox(scene));
    view.rig?.frame(box, true, outward);
  };

  return (
    <PieceFrame
      open={open}
      stage="Mend"
      failure={failure}
      undo={() => void open?.work.undo()}
      redo={() => void open?.work.redo()}
    >
      {open && (
        <main className="columns mend">
          <Findings open={open} found={found} now={now} show={show} run={run} wrong={fixes.wrong} />
          <Stage
            open={open}
            view={view}
            reload={reload}
            findings={found.listed}
            now={now}
            show={show}
            compared={compared}
            look={compared.pairs.length ? look : 'after'}
            setLook={setLook}
            wiped={wiped}
            wipe={wipe}
          />
          <Plan open={open} findings={found.recipe} meshes={found.meshes} jobs={jobs} run={run} />
        </main>
      )}
    </PieceFrame>
  );
}

/** A box around a finding with something of the piece around it, and the way in which its side looks. */
function placeOf(finding: Finding, whole: THREE.Box3): { box: THREE.Box3; outward?: THREE.Vector3 } {
  const reach = Math.max(whole.getSize(new THREE.Vector3()).length() * 0.12, finding.reach);
  const at = new THREE.Vector3(...finding.at);
  const box = new THREE.Box3(at.clone().subScalar(reach), at.clone().addScalar(reach));
  const outward = finding.middle && at.clone().sub(finding.middle);
  return outward && outward.lengthSq() > 1e-6 ? { box, outward: outward.normalize() } : { box };
}
