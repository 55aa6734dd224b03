/** Finding parts of a long recipe by name and by glaze. */
import type { Known } from '../controls/tree';
import { GLAZES } from '../theme/glazes';

export type Wanted = { text: string; glaze: string | null };

export function wants({ text, glaze }: Wanted, name: string, colour: string | undefined): boolean {
  const named = name.toLowerCase().includes(text.trim().toLowerCase());
  return named && (glaze === null || colour === glaze);
}

type Props = {
  wanted: Wanted;
  known: Map<string, Known>;
  onChange: (wanted: Wanted) => void;
  onPick: () => void;
};

export function RecipeFilter({ wanted, known, onChange, onPick }: Props) {
  const colours = [...new Set([...known.values()].map((k) => k.colour))];
  const name = (colour: string) => GLAZES.find((g) => g.colour === colour)?.name ?? 'Clay';
  const asked = wanted.text !== '' || wanted.glaze !== null;
  return (
    <div className="recipe-filter">
      <input
        aria-label="Find parts by name"
        placeholder="find by name"
        value={wanted.text}
        onChange={(e) => onChange({ ...wanted, text: e.currentTarget.value })}
        onKeyDown={(e) => {
          if (e.key === 'Escape') onChange({ text: '', glaze: null });
          if (e.key === 'Enter') onPick();
          e.stopPropagation();
        }}
      />
      <select
        aria-label="Find parts by glaze"
        value={wanted.glaze ?? ''}
        onChange={(e) => onChange({ ...wanted, glaze: e.currentTarget.value || null })}
      >
        <option value="">any glaze</option>
        {colours.map((c) => (
          <option key={c} value={c}>
            {name(c)}
          </option>
        ))}
      </select>
      {asked && (
        <button type="button" className="plain small" onClick={onPick}>
          Pick these
        </button>
      )}
    </div>
  );
}
