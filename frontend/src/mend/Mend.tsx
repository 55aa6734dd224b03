/** Mend: what was found, shown on the piece, and what can be done about it. */
import { useQuery } from '@tanstack/react-query';
import { useMemo, useRef, useState } from 'react';
import * as THREE from 'three';
import { compareJob, ended, useMeshFindings, usePieceJobs } from '../api/jobs';
import { useNeeds } from '../api/pieces';
import { PieceFrame, useOpenPiece } from '../controls/PieceFrame';
import { PieceView } from '../viewport/PieceView';
import { SightDial } from '../viewport/SightDial';
import { View, type ViewHandle, wholeBox } from '../viewport/View';
import { Comparison, LOOKS, type Look, roomFor } from './Comparison';
import { FindingMark } from './FindingMark';
import { Findings } from './Findings';
import { type Fix, grouped } from './finding';
import { LookNotes } from './LookNotes';
import { farthest, useMoved } from './MeshParts';
import { listMeshFindings } from './meshFindings';
import { listNeeds } from './needFindings';
import { Plan } from './Plan';
import { useFixes } from './useFixes';

export function Mend() {
  const { open, failure, reload } = useOpenPiece();
  const view = useRef<ViewHandle>({ eye: null, camera: null, canvas: null }).current;
  const needs = useNeeds(open?.id ?? '', open?.state.revision);
  const [now, setNow] = useState<string | null>(null);
  const [look, setLook] = useState<Look>('after');
  const [wiped, setWiped] = useState(0.5);
  const scene = open?.state.scene ?? null;
  const jobs = usePieceJobs(open?.id ?? '');
  const meshes = useMeshFindings(open?.id ?? '', open?.state.revision) ?? [];
  const recipe = useMemo(
    () => (needs.data && open ? listNeeds(needs.data, open.known) : []),
    [needs.data, open],
  );
  const all = useMemo(
    () => [...(open && scene ? listMeshFindings(meshes, scene.parts, open.known) : []), ...recipe],
    [meshes, recipe, open, scene],
  );
  const [of, setOf] = useState<string | null>(null);
  const inOf = all.filter((f) => of !== null && f.parts.includes(of));
  // In the order in which they are listed; of a part that has none any more, all.
  const findings = grouped(inOf.length ? inOf : all).flatMap((group) => group.findings);
  const mending = jobs.some((j) => j.kind === 'mend' && !ended(j));
  const fixes = useFixes(open);
  const run = mending ? null : (fix: Fix) => void fixes.run(fix);
  // Before and after are of the last mending whose meshes the piece still has.
  const mended = jobs.find((j) => j.kind === 'mend' && j.state === 'done');
  const compared =
    useQuery({
      queryKey: ['compare', mended?.id],
      queryFn: () => compareJob(mended?.id ?? ''),
      enabled: mended !== undefined,
      staleTime: Number.POSITIVE_INFINITY,
    }).data?.filter((pair) => scene?.parts.some((v) => v.id === pair.part && v.key === pair.after)) ?? [];
  const moved = useMoved(compared);
  const most = farthest(moved);
  const shownLook: Look = compared.length ? look : 'after';
  const current = findings.find((f) => f.id === now) ?? null;

  const show = (id: string) => {
    setNow(id);
    const finding = findings.find((f) => f.id === id);
    if (!finding || !scene) return;
    const whole = wholeBox(scene).getSize(new THREE.Vector3()).length();
    const reach = Math.max(whole * 0.12, finding.reach);
    const at = new THREE.Vector3(...finding.at);
    const near = new THREE.Box3(at.clone().subScalar(reach), at.clone().addScalar(reach));
    const outward = finding.middle && at.clone().sub(finding.middle);
    view.eye?.frame(near, true, outward && outward.lengthSq() > 1e-6 ? outward.normalize() : undefined);
  };

  return (
    <PieceFrame
      open={open}
      failure={failure}
      undo={() => void open?.work.undo()}
      redo={() => void open?.work.redo()}
    >
      {open && (
        <main className="columns mend">
          <Findings
            open={open}
            meshes={meshes}
            needs={needs.data}
            failure={needs.error}
            all={all}
            findings={findings}
            of={inOf.length ? of : null}
            choose={setOf}
            now={now}
            show={show}
            run={run}
            wrong={fixes.wrong}
          />
          <div className="middle">
            <div className="stage" data-testid="view">
              <View scene={scene} handle={view} onReady={() => undefined}>
                {scene && shownLook === 'after' && (
                  <PieceView scene={scene} known={open.known} onLost={reload} plain />
                )}
                {scene && (
                  <Comparison
                    scene={scene}
                    compared={compared}
                    look={shownLook}
                    known={open.known}
                    wiped={wiped}
                    moved={moved}
                    most={most}
                  />
                )}
                {(shownLook === 'after' ? findings : []).map((finding) => (
                  <FindingMark
                    key={finding.id}
                    finding={finding}
                    now={finding.id === now}
                    reach={wholeBox(scene).getSize(new THREE.Vector3()).length()}
                  />
                ))}
              </View>
              <SightDial onLook={(side) => view.eye?.look(side)} />
              <div className="view-buttons" style={{ top: 12 }}>
                {compared.length > 0 && (
                  <fieldset className="switch" aria-label="What is shown">
                    {LOOKS.map(({ look, word }) => (
                      <button
                        key={look}
                        type="button"
                        aria-pressed={shownLook === look}
                        onClick={() => {
                          setLook(look);
                          if (scene && (look === 'beside') !== (shownLook === 'beside'))
                            view.eye?.frame(roomFor(look, wholeBox(scene)));
                        }}
                      >
                        {word}
                      </button>
                    ))}
                  </fieldset>
                )}
                <button
                  type="button"
                  className="plain small"
                  onClick={() => view.eye?.frame(roomFor(shownLook, wholeBox(scene)))}
                >
                  Frame all
                </button>
              </div>
              <LookNotes look={shownLook} wiped={wiped} wipe={setWiped} farthest={most} />
              {current && shownLook === 'after' && (
                <div className="floor-bar">
                  <output className="note">
                    {findings.indexOf(current) + 1} of {findings.length} · {current.title}
                    <Step findings={findings.map((f) => f.id)} now={current.id} show={show} />
                  </output>
                </div>
              )}
            </div>
          </div>
          <Plan open={open} findings={recipe} meshes={meshes} jobs={jobs} run={run} />
        </main>
      )}
    </PieceFrame>
  );
}

function Step({ findings, now, show }: { findings: string[]; now: string; show: (id: string) => void }) {
  const at = findings.indexOf(now);
  const go = (by: number) => show(findings[(at + by + findings.length) % findings.length] as string);
  return (
    <>
      <button type="button" className="plain" aria-label="The one before" onClick={() => go(-1)}>
        ◂
      </button>
      <button type="button" className="plain" aria-label="The next" onClick={() => go(1)}>
        ▸
      </button>
    </>
  );
}
