/** Mend: what was found, shown on the piece, and what can be done about it. */
import { useQuery } from '@tanstack/react-query';
import { useMemo, useRef, useState } from 'react';
import * as THREE from 'three';
import type { Compared, Scene } from '../api/client';
import { compareJob, useMeshFindings, usePieceJobs } from '../api/jobs';
import { useNeeds } from '../api/pieces';
import { short } from '../controls/format';
import { PieceFrame, useOpenPiece } from '../controls/PieceFrame';
import type { Known } from '../controls/tree';
import { CLAY } from '../theme/glazes';
import { PieceView } from '../viewport/PieceView';
import { SightDial } from '../viewport/SightDial';
import { View, type ViewHandle, wholeBox } from '../viewport/View';
import { FindingMark } from './FindingMark';
import { Findings } from './Findings';
import { listFindings } from './findingList';
import { farthest, MeshPart, MovedMesh, useMoved } from './MeshParts';
import { listMeshFindings } from './meshFindings';
import { Plan } from './Plan';

type Look = 'after' | 'before' | 'moved';
const LOOKS: { look: Look; word: string }[] = [
  { look: 'before', word: 'Before' },
  { look: 'after', word: 'After' },
  { look: 'moved', word: 'How far it moved' },
];

export function Mend() {
  const { open, failure, reload } = useOpenPiece();
  const view = useRef<ViewHandle>({ eye: null, camera: null, canvas: null }).current;
  const needs = useNeeds(open?.id ?? '', open?.state.revision);
  const [now, setNow] = useState<string | null>(null);
  const [look, setLook] = useState<Look>('after');
  const scene = open?.state.scene ?? null;
  const jobs = usePieceJobs(open?.id ?? '');
  const meshes = useMeshFindings(open?.id ?? '', open?.state.revision) ?? [];
  const recipe = useMemo(
    () => (needs.data && open ? listFindings(needs.data, open.known) : []),
    [needs.data, open],
  );
  const findings = useMemo(
    () => [...(open && scene ? listMeshFindings(meshes, scene.parts, open.known) : []), ...recipe],
    [meshes, recipe, open, scene],
  );
  // Before and after are of the last mending whose meshes the piece still has.
  const mended = jobs.find((j) => j.kind === 'mend' && j.state === 'done');
  const compared =
    useQuery({
      queryKey: ['compare', mended?.id],
      queryFn: () => compareJob(mended?.id ?? ''),
      enabled: mended !== undefined,
      staleTime: Number.POSITIVE_INFINITY,
    }).data?.filter((pair) => scene?.parts.some((v) => v.id === pair.part && v.key === pair.after)) ?? [];
  const moved = farthest(useMoved(compared[0]));
  const shownLook: Look = compared.length ? look : 'after';
  const current = findings.find((f) => f.id === now) ?? null;

  const show = (id: string) => {
    setNow(id);
    const finding = findings.find((f) => f.id === id);
    if (!finding || !scene) return;
    const whole = wholeBox(scene).getSize(new THREE.Vector3()).length();
    const reach = Math.max(whole * 0.12, finding.reach ?? whole * 0.3);
    const at = new THREE.Vector3(...finding.at);
    view.eye?.frame(new THREE.Box3(at.clone().subScalar(reach), at.clone().addScalar(reach)));
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
            meshes={meshes}
            needs={needs.data}
            failure={needs.error}
            findings={findings}
            now={now}
            show={show}
            scene={scene}
          />
          <div className="middle">
            <div className="stage" data-testid="view">
              <View scene={scene} handle={view} onReady={() => undefined}>
                {scene && shownLook === 'after' && (
                  <PieceView scene={scene} known={open.known} onLost={reload} plain />
                )}
                {scene && <Meshes scene={scene} compared={compared} look={shownLook} known={open.known} />}
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
                        onClick={() => setLook(look)}
                      >
                        {word}
                      </button>
                    ))}
                  </fieldset>
                )}
                <button
                  type="button"
                  className="plain small"
                  onClick={() => view.eye?.frame(wholeBox(scene))}
                >
                  Frame all
                </button>
              </div>
              {shownLook === 'moved' && (
                <div className="floor-bar">
                  <output className="note">
                    clay: as it was · red: new, up to {short(moved, 3)} mm from what was there
                  </output>
                </div>
              )}
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
          <Plan open={open} findings={recipe} meshes={meshes} jobs={jobs} />
        </main>
      )}
    </PieceFrame>
  );
}

type MeshesProps = { scene: Scene; compared: Compared[]; look: Look; known: Map<string, Known> };

/** Mended meshes as they were, or by how far they moved. */
function Meshes({ scene, compared, look, known }: MeshesProps) {
  return scene.parts.map((view) => {
    const pair = compared.find((c) => c.part === view.id);
    const colour = known.get(view.id)?.colour ?? CLAY;
    if (pair && look === 'moved') return <MovedMesh key={view.id} pair={pair} view={view} />;
    if (pair && look === 'before')
      return <MeshPart key={view.id} meshKey={pair.before} view={view} colour={colour} />;
    return null;
  });
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
