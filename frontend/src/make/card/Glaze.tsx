/** The colour of parts: a named glaze, one of the piece's or the maker's own, or any; and how far they are seen through. */
import { useEffect, useRef, useState } from 'react';
import { NumberField } from '../../controls/fields/NumberField';
import type { Open } from '../../controls/PieceFrame';
import { GLAZES } from '../../theme/glazes';
import { glazesOf, readColour, useOwnGlazes } from './ownGlazes';
import { setPart } from './setPart';

type Props = { open: Open; ids: string[]; colour: string | null; opacity: number };

export function Glaze({ open, ids, colour, opacity }: Props) {
  const { own: mixed, keep } = useOwnGlazes();
  const own = [...new Set([...glazesOf(open.known), ...mixed])];
  const dip = (into: string) => setPart(open, ids, { colour: into });
  const mix = (into: string) => {
    keep(into);
    dip(into);
  };
  return (
    <div className="section">
      <h3>
        Glaze
        {colour && (
          <button type="button" className="bare quiet" onClick={() => setPart(open, ids, { colour: null })}>
            wash off
          </button>
        )}
      </h3>
      <div className="glazes">
        {GLAZES.map((glaze) => (
          <Swatch key={glaze.name} {...glaze} chosen={colour === glaze.colour} onDip={dip} />
        ))}
        {own.map((own) => (
          <Swatch key={own} name={own} colour={own} chosen={colour?.toLowerCase() === own} onDip={dip} />
        ))}
        <AnyColour colour={colour} onMix={mix} />
      </div>
      <div className="fields mt-2">
        <ColourNumber key={colour} colour={colour} onMix={mix} />
        <NumberField
          label="Glass, %"
          title="0 is clay, 100 cannot be seen at all; it changes no print"
          value={Math.round((1 - opacity) * 100)}
          least={0}
          most={100}
          onApply={(percent) => setPart(open, ids, { opacity: 1 - percent / 100 })}
        />
      </div>
    </div>
  );
}

type SwatchProps = { name: string; colour: string; chosen: boolean; onDip: (colour: string) => void };

function Swatch({ name, colour, chosen, onDip }: SwatchProps) {
  return (
    <button
      type="button"
      className="swatch"
      title={name}
      aria-label={name}
      aria-pressed={chosen}
      style={{ background: colour }}
      onClick={() => onDip(colour)}
    />
  );
}

type MixProps = { colour: string | null; onMix: (colour: string) => void };

/** The browser's own picker; what is mixed is taken when that is closed. */
function AnyColour({ colour, onMix }: MixProps) {
  const input = useRef<HTMLInputElement>(null);
  const latest = useRef(onMix);
  latest.current = onMix;
  useEffect(() => {
    const picker = input.current;
    const done = () => picker && latest.current(picker.value);
    // React's own "change" comes with every move of the picker.
    picker?.addEventListener('change', done);
    return () => picker?.removeEventListener('change', done);
  }, []);
  return (
    <input
      ref={input}
      type="color"
      className="swatch any"
      title="any other glaze"
      aria-label="Any other glaze"
      defaultValue={colour ?? '#c7a384'}
    />
  );
}

/** A colour as its number. */
function ColourNumber({ colour, onMix }: MixProps) {
  const [text, setText] = useState(colour ?? '');
  const read = readColour(text);
  const wrong = text !== '' && read === null;
  const apply = () => {
    if (read && read !== colour?.toLowerCase()) onMix(read);
  };
  return (
    <div className="field">
      <label htmlFor="glaze-number">As a number</label>
      <input
        id="glaze-number"
        value={text}
        placeholder="#c7a384"
        autoComplete="off"
        aria-describedby={wrong ? 'glaze-wrong' : undefined}
        onChange={(e) => setText(e.currentTarget.value)}
        onBlur={apply}
        onKeyDown={(e) => {
          if (e.key === 'Enter') apply();
          if (e.key === 'Escape') setText(colour ?? '');
          e.stopPropagation();
        }}
      />
      {wrong && (
        <div id="glaze-wrong" className="wrong" role="alert">
          six digits, as #c7a384
        </div>
      )}
    </div>
  );
}
