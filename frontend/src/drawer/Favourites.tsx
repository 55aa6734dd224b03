/** The forms and presets that the tray shows first. */
import { usePresets, usePrimitives } from '../api/pieces';
import { useFavourites } from '../api/preferences';

export function Favourites() {
  const { favourites, toggle } = useFavourites();
  const primitives = usePrimitives().data ?? [];
  const presets = usePresets().data ?? [];
  const named = [
    ...primitives.map((p) => ({
      key: `primitive ${p.kind}`,
      label: p.label,
      image: `/api/primitives/${p.kind}/tile.svg`,
    })),
    ...presets.map((p) => ({
      key: `preset ${p.slug}`,
      label: p.name,
      image: `/api/presets/${p.slug}/tile.svg`,
    })),
  ].filter((f) => favourites.includes(f.key));
  return (
    <section className="favourites" aria-label="Favourites">
      <h2>Favourite forms and presets</h2>
      {named.length === 0 ? (
        <p className="quiet">Star a tile of the tray, and it stands here and first among your own there.</p>
      ) : (
        <ul>
          {named.map((f) => (
            <li key={f.key}>
              <img src={f.image} alt="" />
              {f.label}
              <button
                type="button"
                className="bare"
                aria-label={`${f.label}: no favourite any more`}
                onClick={() => toggle(f.key)}
              >
                ★
              </button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
