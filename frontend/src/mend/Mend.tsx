/** Mend: what was found, shown on the piece, and what can be done about it. */
import { useMemo, useRef, useState } from 'react';
import * as THREE from 'three';
import type { BroughtIn } from '../api/client';
import { useNeeds } from '../api/pieces';
import { PieceFrame, useOpenPiece } from '../controls/PieceFrame';
import { PieceView } from '../viewport/PieceView';
import { SightDial } from '../viewport/SightDial';
import { View, type ViewHandle, wholeBox } from '../viewport/View';
import { FindingMark } from './FindingMark';
import { Findings } from './Findings';
import { listFindings } from './findingList';
import { Plan } from './Plan';

export function Mend() {
  const { open, failure, reload } = useOpenPiece();
  const view = useRef<ViewHandle>({ eye: null, camera: null, canvas: null }).current;
  const needs = useNeeds(open?.id ?? '', open?.state.revision);
  const [now, setNow] = useState<string | null>(null);
  const [report, setReport] = useState<BroughtIn | null>(null);
  const scene = open?.state.scene ?? null;
  const findings = useMemo(
    () => (needs.data && open ? listFindings(needs.data, open.known) : []),
    [needs.data, open],
  );
  const current = findings.find((f) => f.id === now) ?? null;

  const show = (id: string) => {
    setNow(id);
    const finding = findings.find((f) => f.id === id);
    if (!finding || !scene) return;
    const reach = wholeBox(scene).getSize(new THREE.Vector3()).length() * 0.3;
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
                {scene && <PieceView scene={scene} known={open.known} onLost={reload} plain />}
                {findings.map((finding) => (
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
                <button
                  type="button"
                  className="plain small"
                  onClick={() => view.eye?.frame(wholeBox(scene))}
                >
                  Frame all
                </button>
              </div>
              {current && (
                <div className="floor-bar">
                  <output className="note">
                    {findings.indexOf(current) + 1} of {findings.length} · {current.title}
                    <Step findings={findings.map((f) => f.id)} now={current.id} show={show} />
                  </output>
                </div>
              )}
            </div>
          </div>
          <Plan open={open} findings={findings} report={report} onReport={setReport} />
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
