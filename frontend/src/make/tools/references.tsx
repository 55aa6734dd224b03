/** Reference pictures: brought in, stood on a plane, dragged, scaled by two points, dimmed, locked, taken away. */
import { useEffect } from 'react';
import { create } from 'zustand';
import type { Vector } from '../../controls/editor';
import { FileButton } from '../../controls/FileButton';
import { ChoiceField } from '../../controls/fields/ChoiceField';
import { NumberField } from '../../controls/fields/NumberField';
import { short } from '../../controls/format';
import type { Open } from '../../controls/PieceFrame';
import { INK } from '../../theme/ink';
import { useFacePointer } from '../../viewport/useFacePointer';
import { usePointer } from '../../viewport/usePointer';
import { SpotDot } from '../MeasureMarks';
import { useInHand } from '../ReferencePictures';
import {
  bringInPictures,
  keepReference,
  MOST_PICTURES,
  onPicture,
  PICTURE_ENDINGS,
  PLANES,
  type Reference,
  scaledBy,
  tidy,
} from '../references';
import { Leave } from './Leave';
import type { ToolProps, ViewTool } from './tool';

export const REFERENCES: ViewTool = {
  name: 'references',
  button: { under: 'looks', word: 'References', title: 'Alt+R: pictures to model after, on three planes' },
  InScene: InScene,
  Note: ReferenceNote,
};

/** The points of the picture that it is being scaled by; null while it is not. */
const usePoints = create<{ points: Vector[] | null }>(() => ({ points: null }));

const picturesOf = (open: Open) => (open.state.piece.pictures ?? []) as Reference[];

function useChosen(open: Open): Reference | undefined {
  const id = useInHand((s) => s.id);
  const pictures = picturesOf(open);
  return pictures.find((p) => p.id === id) ?? pictures.at(-1);
}

function InScene({ open }: ToolProps) {
  const chosen = useChosen(open);
  const points = usePoints((s) => s.points);
  const id = chosen?.id ?? null;
  useEffect(() => useInHand.setState({ id }), [id]);
  useEffect(
    () => () => {
      useInHand.setState({ id: null, meanwhile: null });
      usePoints.setState({ points: null });
    },
    [],
  );
  if (!chosen) return null;
  if (points === null) return <Dragging open={open} chosen={chosen} />;
  return (
    <>
      {points.length < 2 && <Pointing chosen={chosen} points={points} />}
      {points.map((p) => (
        <SpotDot key={p.join()} at={p} colour={INK.chosen} />
      ))}
    </>
  );
}

function Pointing({ chosen, points }: { chosen: Reference; points: Vector[] }) {
  useFacePointer({
    pick: ({ ray }) => {
      const at = onPicture(ray, chosen)?.toArray();
      if (at && at.join() !== points[0]?.join()) usePoints.setState({ points: [...points, at] });
    },
  });
  return null;
}

/** The picture that is pressed is in hand, and goes along its plane; what is locked stays. */
function Dragging({ open, chosen }: { open: Open; chosen: Reference }) {
  type Held = { picture: Reference; from: Vector };
  const moved = ({ picture, from }: Held, at: Vector): Reference => ({
    ...picture,
    middle: picture.middle.map((v, k) => tidy(v + (at[k] as number) - (from[k] as number))) as Vector,
  });
  usePointer<Held>(true, {
    down: ({ ray }) => {
      const seen = picturesOf(open)
        .filter((p) => !p.hidden && (!p.locked || p.id === chosen.id))
        .flatMap((picture) => {
          const at = onPicture(ray.ray, picture);
          return at ? [{ picture, from: at.toArray(), away: at.distanceTo(ray.ray.origin) }] : [];
        });
      const nearest = seen.sort((a, b) => a.away - b.away)[0];
      if (!nearest) return null;
      useInHand.setState({ id: nearest.picture.id });
      return nearest.picture.locked ? null : nearest;
    },
    drag: (held, { ray }) => {
      const at = onPicture(ray.ray, held.picture, true);
      if (at) useInHand.setState({ meanwhile: moved(held, at.toArray()) });
    },
    drop: async () => {
      const { meanwhile } = useInHand.getState();
      if (meanwhile) await keepReference(open, meanwhile);
      useInHand.setState({ meanwhile: null });
    },
    cancel: () => useInHand.setState({ meanwhile: null }),
  });
  return null;
}

function ReferenceNote({ open }: ToolProps) {
  const chosen = useChosen(open);
  const points = usePoints((s) => s.points);
  const pictures = picturesOf(open);
  const bringIn = async (files: File[]) => {
    const id = await bringInPictures(open, files);
    if (id) useInHand.setState({ id });
  };
  if (chosen && points) return <Scaling open={open} chosen={chosen} points={points} />;
  return (
    <section className="panel references" aria-label="Reference pictures">
      <b>References:</b>
      {pictures.map((p) => (
        <button
          key={p.id}
          type="button"
          className="plain small"
          aria-pressed={p.id === chosen?.id}
          onClick={() => useInHand.setState({ id: p.id })}
        >
          {p.name}
        </button>
      ))}
      {pictures.length === 0 && (
        <span className="quiet">a drawing or a photograph to model after: PNG, JPEG or WebP</span>
      )}
      {pictures.length < MOST_PICTURES && (
        <FileButton
          word={pictures.length ? '+' : 'Bring one in …'}
          title="bring in a PNG, JPEG or WebP"
          label="Reference picture"
          accept={PICTURE_ENDINGS}
          several
          onFiles={(files) => void bringIn(files)}
        />
      )}
      {chosen && <WhatToDo open={open} chosen={chosen} />}
      <Leave />
      {chosen && <Fields open={open} chosen={chosen} />}
    </section>
  );
}

type OfOne = { open: Open; chosen: Reference };

/** What there is to do with the picture in hand. */
function WhatToDo({ open, chosen }: OfOne) {
  const set = (values: Partial<Reference>) => void keepReference(open, { ...chosen, ...values });
  const { locked, hidden } = chosen;
  return (
    <>
      <button
        type="button"
        className="plain small"
        disabled={locked || hidden}
        title="click two points of it, and type how far apart they are"
        onClick={() => usePoints.setState({ points: [] })}
      >
        Scale
      </button>
      <button type="button" className="plain small" onClick={() => set({ hidden: !hidden })}>
        {hidden ? 'Show' : 'Hide'}
      </button>
      <button
        type="button"
        className="plain small"
        title="a locked picture is not moved or changed by a slip of the hand"
        onClick={() => set({ locked: !locked })}
      >
        {locked ? 'Unlock' : 'Lock'}
      </button>
      <button
        type="button"
        className="plain small"
        disabled={locked}
        onClick={() => void open.work.edit({ kind: 'drop_picture', id: chosen.id })}
      >
        Take away
      </button>
    </>
  );
}

/** How the picture in hand stands; dragging it in the view moves it, too. */
function Fields({ open, chosen }: OfOne) {
  const set = (values: Partial<Reference>) => void keepReference(open, { ...chosen, ...values });
  const { locked } = chosen;
  return (
    <div className="of-picture" key={chosen.id}>
      <ChoiceField
        label="Plane"
        value={chosen.plane}
        options={PLANES}
        disabled={locked}
        onApply={(plane) => set({ plane: plane as Reference['plane'] })}
      />
      <NumberField
        label="Width, mm"
        value={chosen.width}
        least={0.001}
        most={200_000}
        disabled={locked}
        onApply={(width) => set({ width })}
      />
      {(['x', 'y', 'z'] as const).map((axis, k) => (
        <NumberField
          key={axis}
          label={axis}
          title="where its middle is, mm; dragging it in the view moves it, too"
          value={chosen.middle[k] as number}
          disabled={locked}
          onApply={(v) => set({ middle: chosen.middle.map((w, i) => (i === k ? v : w)) as Vector })}
        />
      ))}
      <NumberField
        label="Seen, %"
        title="100 is as it is, less is dimmed"
        value={Math.round(chosen.opacity * 100)}
        least={5}
        most={100}
        disabled={locked}
        onApply={(percent) => set({ opacity: percent / 100 })}
      />
    </div>
  );
}

/** Two points of the picture are clicked, and how far apart they are is typed. */
function Scaling({ open, chosen, points }: { open: Open; chosen: Reference; points: Vector[] }) {
  const [from, to] = points;
  const leave = () => usePoints.setState({ points: null });
  const apart = from && to ? Math.hypot(...from.map((v, k) => v - (to[k] as number))) : null;
  return (
    <section className="panel" aria-label="Scale the picture">
      <span>
        <b>Scale {chosen.name}:</b>{' '}
        {apart === null
          ? `click ${from ? 'the other point' : 'a point of it'}`
          : `they are ${short(apart, 3)} mm apart; type how far they are to be`}
      </span>
      {from && to && (
        <NumberField
          label="apart, mm"
          value={null}
          above={0}
          most={100_000}
          onApply={(mm) => {
            void keepReference(open, scaledBy(chosen, from, to, mm));
            leave();
          }}
        />
      )}
      <button type="button" className="plain small" onClick={leave}>
        Back
      </button>
    </section>
  );
}
