/** The tray of primitives: a click puts one down beside what is there, a drag drops it where the pointer is. */
import { type ReactNode, useState } from 'react';
import { Link, NavLink, useParams } from 'react-router';
import type { KeptCard, Preset, Primitive, PrimitiveInfo } from '../api/client';
import { useDrawer } from '../api/drawer';
import { usePresets, usePrimitives } from '../api/pieces';
import { useFavourites } from '../api/preferences';
import { useEditor, type Vector } from '../controls/editor';
import { size } from '../controls/format';
import { KeptPicture } from '../controls/KeptPicture';
import { floorPoint } from '../viewport/pointer';
import type { ViewHandle } from '../viewport/View';
import type { Actions } from './actions';

const SLACK_PX = 6;

const PRESETS = 'Presets';

const OWN = 'My drawer';

/** What can be put down: a primitive, a preset, or a part of the drawer. */
type Tile = {
  key: string;
  label: string;
  family: string;
  picture: ReactNode;
  put: (at: Vector | null) => void;
  about: ReactNode;
};

type Props = { actions: Actions; view: ViewHandle; name: string };

export function Tray({ actions, view, name }: Props) {
  const primitives = usePrimitives().data ?? [];
  const presets = usePresets().data ?? [];
  const kept = useDrawer().data?.filter((card) => !card.problem) ?? [];
  const { favourites, toggle } = useFavourites();
  const { id } = useParams();
  const tiles: Tile[] = [
    ...primitives.map((p) => ({
      key: `primitive ${p.kind}`,
      label: p.label,
      family: p.family,
      picture: <TileImage address={`/api/primitives/${p.kind}/tile.svg`} />,
      put: (at: Vector | null) => void actions.putDown(p.sample as unknown as Primitive, at),
      about: <AboutForm info={p} />,
    })),
    ...presets.map((p) => ({
      key: `preset ${p.slug}`,
      label: p.name,
      family: PRESETS,
      picture: <TileImage address={`/api/presets/${p.slug}/tile.svg`} />,
      put: (at: Vector | null) => void actions.putReady({ preset: p.slug }, at),
      about: <AboutPreset preset={p} />,
    })),
    ...kept.map((card) => ({
      key: `kept ${card.id}`,
      label: card.name,
      family: OWN,
      picture: <KeptPicture card={card} />,
      put: (at: Vector | null) => void actions.putReady({ kept: card.id }, at),
      about: <AboutKept card={card} />,
    })),
  ];
  const families = [...new Set([...tiles.map((t) => t.family), OWN])];
  const [family, setFamily] = useState('Round');
  const [hovered, setHovered] = useState<string | null>(null);
  const [ghost, setGhost] = useState<{ picture: ReactNode; x: number; y: number } | null>(null);

  const shown =
    family === OWN
      ? tiles
          .filter((t) => t.family === OWN || favourites.includes(t.key))
          .sort((a, b) => Number(favourites.includes(b.key)) - Number(favourites.includes(a.key)))
      : tiles.filter((t) => t.family === family);

  const press = (e: React.PointerEvent, tile: Tile) => {
    if (e.button !== 0) return;
    const start = { x: e.clientX, y: e.clientY };
    let dragging = false;
    const move = (m: PointerEvent) => {
      dragging ||= Math.hypot(m.clientX - start.x, m.clientY - start.y) > SLACK_PX;
      if (dragging) setGhost({ picture: tile.picture, x: m.clientX, y: m.clientY });
    };
    const end = (m: PointerEvent) => {
      window.removeEventListener('pointermove', move);
      window.removeEventListener('pointerup', end);
      window.removeEventListener('pointercancel', end);
      setGhost(null);
      if (!dragging || m.type === 'pointercancel' || !view.camera || !view.canvas) return;
      const at = floorPoint(view.camera, view.canvas, m.clientX, m.clientY, useEditor.getState().floor);
      if (at) tile.put(at);
    };
    window.addEventListener('pointermove', move);
    window.addEventListener('pointerup', end);
    window.addEventListener('pointercancel', end);
  };

  return (
    <section className="tray" aria-label="Primitives">
      <div className="families">
        <div role="tablist" aria-label="Families">
          {families.map((f) => (
            <button
              key={f}
              type="button"
              role="tab"
              aria-selected={f === family}
              onClick={() => setFamily(f)}
            >
              {f}
            </button>
          ))}
        </div>
        {family === OWN ? (
          <Link className="plain small ms-auto" to="/drawer" state={{ from: { id, name } }}>
            Open the drawer
          </Link>
        ) : (
          <span className="hint">click to put one down, or drag it to its spot · / finds any by name</span>
        )}
        <NavLink
          className="plain small"
          to="../mend"
          relative="path"
          title="STL, 3MF, OBJ, PLY or GLB; or drop it on the view"
        >
          Bring in a mesh
        </NavLink>
      </div>
      <div className="tiles">
        {shown.map((tile) => (
          <div key={tile.key} className="tile-box">
            <button
              type="button"
              className="tile"
              aria-keyshortcuts="*"
              onKeyDown={(e) => {
                if (e.key === '*') toggle(tile.key);
              }}
              onPointerDown={(e) => press(e, tile)}
              onPointerEnter={() => setHovered(tile.key)}
              onPointerLeave={() => setHovered(null)}
              onFocus={() => setHovered(tile.key)}
              onBlur={() => setHovered(null)}
              onClick={() => tile.put(null)}
            >
              <span>{tile.picture}</span>
              {tile.label}
            </button>
            <button
              type="button"
              className="star"
              tabIndex={-1}
              aria-pressed={favourites.includes(tile.key)}
              aria-label={`${tile.label}: a favourite`}
              title={favourites.includes(tile.key) ? 'no favourite any more' : `keep it among ${OWN}`}
              onClick={() => toggle(tile.key)}
            >
              {favourites.includes(tile.key) ? '★' : '☆'}
            </button>
          </div>
        ))}
        {family === OWN && shown.length === 0 && (
          <p className="quiet">
            Nothing is kept yet. Pick a part and choose “Keep in the drawer” at the right, or star a tile of
            another family.
          </p>
        )}
      </div>
      {hovered && !ghost && (
        <aside className="tray-about" role="note">
          {tiles.find((t) => t.key === hovered)?.about}
        </aside>
      )}
      {ghost && (
        <div className="tray-ghost" style={{ left: ghost.x, top: ghost.y }}>
          {ghost.picture}
        </div>
      )}
    </section>
  );
}

/** What a primitive is, before it is put down: its fields seen moving, and what each says. */
function AboutForm({ info }: { info: PrimitiveInfo }) {
  return (
    <>
      <img src={`/api/primitives/${info.kind}/moving.svg`} alt="" />
      <div>
        <b>{info.label}</b>
        <p>{info.summary}</p>
        <ul>
          {info.fields.slice(0, 7).map((f) => (
            <li key={f.name}>
              {f.title}
              {f.description && <span className="quiet"> – {f.description}</span>}
            </li>
          ))}
        </ul>
        {info.editor && info.editor !== 'limb' && (
          <p className="quiet">drawn by hand on a board beside the view</p>
        )}
      </div>
    </>
  );
}

const TileImage = ({ address }: { address: string }) => <img src={address} alt="" draggable={false} />;

function AboutKept({ card }: { card: KeptCard }) {
  const bounds = card.soundness?.bounds;
  return (
    <>
      <KeptPicture card={card} />
      <div>
        <b>{card.name}</b>
        <p>
          Of your drawer{bounds && `: ${size(bounds[0], bounds[1])}`}
          {card.fixed && ', of fixed size'}.
        </p>
        {card.tags.length > 0 && <p className="quiet">{card.tags.join(' · ')}</p>}
        {card.notes && <p className="quiet">{card.notes}</p>}
      </div>
    </>
  );
}

function AboutPreset({ preset }: { preset: Preset }) {
  return (
    <>
      <img src={`/api/presets/${preset.slug}/tile.svg`} alt="" />
      <div>
        <b>{preset.name}</b>
        <p>A small recipe: go into it with Enter and change what you like.</p>
        {preset.notes && <p className="quiet">{preset.notes}</p>}
      </div>
    </>
  );
}
