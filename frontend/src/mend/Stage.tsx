/** The view of the Mend stage: the piece with its findings, or mended meshes compared. */

import * as THREE from 'three';
import type { Open } from '../controls/PieceFrame';
import { wholeBox } from '../viewport/boxes';
import { PieceView } from '../viewport/PieceView';
import { over } from '../viewport/room';
import { View, type ViewHandle } from '../viewport/View';
import { ViewDial } from '../viewport/ViewDial';
import { COMPARINGS, type Comparing, Comparison, roomFor } from './Comparison';
import { FindingMark } from './FindingMark';
import type { Finding } from './finding';
import { LookNotes } from './LookNotes';
import type { ComparedMeshes } from './useCompared';

type Props = {
  open: Open;
  view: ViewHandle;
  reload: () => void;
  findings: Finding[];
  now: string | null;
  show: (id: string) => void;
  compared: ComparedMeshes;
  look: Comparing;
  setLook: (look: Comparing) => void;
  wiped: number;
  wipe: (at: number) => void;
};

export function Stage(props: Props) {
  const { open, view, reload, findings, now, show, compared, look, setLook, wiped, wipe } = props;
  const scene = open.state.scene;
  const box = wholeBox(scene);
  const reach = box.getSize(new THREE.Vector3()).length();
  const current = findings.find((f) => f.id === now);
  const choose = (wanted: Comparing) => {
    setLook(wanted);
    // Side by side takes another room than all the others.
    if ((wanted === 'beside') !== (look === 'beside')) view.rig?.frame(roomFor(wanted, box));
  };
  return (
    <div className="middle">
      <div className="stage" data-testid="view">
        <View piece={open.id} scene={scene} handle={view}>
          {scene && look === 'after' && (
            <PieceView key={open.id} scene={scene} known={open.known} onLost={reload} plain />
          )}
          {scene && (
            <Comparison scene={scene} compared={compared} look={look} known={open.known} wiped={wiped} />
          )}
          {look === 'after' &&
            findings.map((finding) => (
              <FindingMark key={finding.id} finding={finding} now={finding.id === now} reach={reach} />
            ))}
        </View>
        <ViewDial rig={() => view.rig} />
        <div className="view-buttons" style={{ top: 12 }} {...over('top')}>
          {compared.pairs.length > 0 && (
            <fieldset className="switch" aria-label="What is shown">
              {COMPARINGS.map(({ look: one, word }) => (
                <button key={one} type="button" aria-pressed={look === one} onClick={() => choose(one)}>
                  {word}
                </button>
              ))}
            </fieldset>
          )}
          <button type="button" className="plain small" onClick={() => view.rig?.frame(roomFor(look, box))}>
            Frame all
          </button>
        </div>
        <LookNotes look={look} wiped={wiped} wipe={wipe} farthest={compared.most} />
        {current && look === 'after' && (
          <div className="floor-bar" {...over('bottom')}>
            <output className="note">
              {findings.indexOf(current) + 1} of {findings.length} · {current.title}
              <Step findings={findings.map((f) => f.id)} now={current.id} show={show} />
            </output>
          </div>
        )}
      </div>
    </div>
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
