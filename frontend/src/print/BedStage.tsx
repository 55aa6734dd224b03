/** The view of the Print stage: the bed, and what lies on it as solid, as a map, or in layers. */
import type * as THREE from 'three';
import type { Bed, Checked, CutParts, Lying, Printer } from '../api/printing';
import { short } from '../controls/format';
import type { Open } from '../controls/PieceFrame';
import { INK } from '../theme/ink';
import { over } from '../viewport/room';
import { gradientOf } from '../viewport/scalarMap';
import { View, type ViewHandle } from '../viewport/View';
import { ViewDial } from '../viewport/ViewDial';
import { BedPlate } from './BedPlate';
import { bedMiddles, boxOnBed } from './bedPlaces';
import { CutPlanes, PartsApart } from './CutView';
import { LayerBar } from './LayerBar';
import { LayerPaths } from './LayerPaths';
import { LyingColoured, LyingPieces } from './LyingPieces';
import { leanScale, PRINT_LOOKS, type PrintLook, wallScale } from './looks';
import { Mapped } from './Mapped';

type Props = {
  open: Open;
  view: ViewHandle;
  reload: () => void;
  /** The meshes of what lies beside it are gone: have them made again. */
  relay: () => void;
  printer: Printer | undefined;
  /** With a result of its own where an edit is tried out. */
  lies: Lying | undefined;
  /** The check that is done, and what it found. */
  job: string | undefined;
  checked: Checked | undefined;
  bed: Bed | undefined;
  /** What the piece was cut into. */
  cut: { job: string; parts: CutParts } | null;
  look: PrintLook;
  setLook: (look: PrintLook) => void;
  layer: number | null;
  setLayer: (layer: number | null) => void;
  spot: THREE.Vector3 | null;
};

export function BedStage(props: Props) {
  const {
    open,
    view,
    reload,
    relay,
    printer,
    lies,
    job,
    checked,
    bed,
    cut,
    look,
    setLook,
    layer,
    setLayer,
    spot,
  } = props;
  const scene = open.state.scene;
  const [wide, deep, high] = (printer?.bed ?? [200, 200, 200]) as [number, number, number];
  const beds = bedMiddles(lies?.beds ?? 1, wide);
  const top = checked ? checked.layers - 1 : 0;
  const at = layer ?? top;
  const nozzle = printer?.nozzle ?? 0.4;
  // Until the check is done there is only the solid to see.
  const shown = (look === 'parts' ? cut : job) ? look : 'solid';
  const settings = bed?.settings;
  const bounds = scene?.soundness?.bounds;
  return (
    <div className="middle">
      <div className="stage" data-testid="view">
        <View
          piece={open.id}
          scene={scene}
          handle={view}
          floor={beds.map((x) => (
            <group key={x} position={[x, 0, 0]}>
              <BedPlate wide={wide} deep={deep} high={high} />
            </group>
          ))}
          reach={Math.hypot(wide, deep) / 2 + (beds.at(-1) ?? 0)}
        >
          {scene?.result && lies && !lies.result && shown === 'solid' && (
            <LyingPieces result={scene.result} known={open.known} lies={lies} alone onLost={reload} />
          )}
          {shown === 'solid' &&
            lies?.beside.map((other) => (
              <LyingColoured key={other.piece} shown={other} alone={false} onLost={relay} />
            ))}
          {shown === 'solid' && lies?.result && (
            <LyingColoured shown={{ ...lies, lies }} alone onLost={relay} />
          )}
          {lies && job && shown === 'overhangs' && (
            <Mapped job={job} lies={lies} which="leans" scale={leanScale()} />
          )}
          {lies && job && shown === 'walls' && (
            <Mapped job={job} lies={lies} which="thick" scale={wallScale(nozzle)} />
          )}
          {lies && job && settings && printer && shown === 'layers' && (
            <LayerPaths job={job} lies={lies} layer={at} settings={settings} printer={printer} />
          )}
          {lies && cut && shown === 'parts' && <PartsApart job={cut.job} parts={cut.parts} lies={lies} />}
          {lies && bed && bounds && shown === 'solid' && (
            <CutPlanes lines={bed.cut} bounds={bounds as [number[], number[]]} lies={lies} />
          )}
          {spot && (
            <mesh position={spot} renderOrder={5}>
              <sphereGeometry args={[Math.max(0.8, Math.hypot(...(lies?.size ?? [0])) / 70), 24, 16]} />
              <meshBasicMaterial color={INK.flaw} depthTest={false} transparent opacity={0.85} />
            </mesh>
          )}
        </View>
        <ViewDial rig={() => view.rig} />
        <div className="view-buttons" style={{ top: 12 }} {...over('top')}>
          <fieldset className="switch" aria-label="What is shown">
            {PRINT_LOOKS.map(({ look: one, word, title }) => (
              <button
                key={one}
                type="button"
                title={title}
                disabled={one === 'parts' ? !cut : one !== 'solid' && !job}
                aria-pressed={shown === one}
                onClick={() => setLook(one)}
              >
                {word}
              </button>
            ))}
          </fieldset>
          <button
            type="button"
            className="plain small"
            onClick={() => lies && view.rig?.frame(boxOnBed(lies))}
          >
            Frame all
          </button>
        </div>
        {lies?.result && shown === 'solid' && (
          <div className="floor-bar" {...over('bottom')}>
            <output className="note">Tried out: the piece itself is as it was</output>
          </div>
        )}
        {shown === 'overhangs' && (
          <Legend from="upright to 35°" to="level underside" scale={gradientOf(leanScale())} />
        )}
        {shown === 'walls' && (
          <Legend
            from={`${short(nozzle)} mm or less`}
            to={`${short(5 * nozzle)} mm and more`}
            scale={gradientOf(wallScale(nozzle))}
          />
        )}
        {shown === 'layers' && checked && settings && (
          <LayerBar layers={checked.layers} at={at} thick={settings.layer} setLayer={setLayer} />
        )}
      </div>
    </div>
  );
}

function Legend({ from, to, scale }: { from: string; to: string; scale: string }) {
  return (
    <div className="floor-bar" {...over('bottom')}>
      <output className="note moved-scale" aria-label="Scale of colours">
        <span>{from}</span>
        <i style={{ background: scale }} />
        <span>{to}</span>
      </output>
    </div>
  );
}
