/** A picture of the view to take away: any size, with the wheel or on nothing, in the look that is chosen. */
import { useThree } from '@react-three/fiber';
import { useEffect, useState } from 'react';
import { create } from 'zustand';
import { saveBlob } from '../../api/takeOut';
import { useWork } from '../../api/work';
import { NumberField } from '../../controls/fields/NumberField';
import { LEAST_PX, MOST_PX, shoot } from '../../viewport/shoot';
import { Leave } from './Leave';
import type { ToolProps, ViewTool } from './tool';

export const PICTURE: ViewTool = { name: 'picture', InScene: Camera, Note: PictureNote };

type Shot = Parameters<typeof shoot>[1];

/** What takes a picture of the scene that the tool is in. */
const useShoot = create<{ take: ((shot: Shot) => Promise<Blob | null>) | null }>(() => ({ take: null }));

function Camera() {
  const get = useThree((s) => s.get);
  useEffect(() => {
    useShoot.setState({ take: (shot) => shoot(get(), shot) });
    return () => useShoot.setState({ take: null });
  }, [get]);
  return null;
}

function PictureNote({ open }: ToolProps) {
  const [shot, setShot] = useState<Shot>({ width: 1600, height: 1200, floor: true });
  const take = useShoot((s) => s.take);
  const side = (label: string, name: 'width' | 'height') => (
    <NumberField
      label={label}
      value={shot[name]}
      least={LEAST_PX}
      most={MOST_PX}
      wholeNumber
      onApply={(value) => setShot({ ...shot, [name]: value })}
    />
  );
  const save = async () => {
    const picture = await take?.(shot);
    if (picture) saveBlob(picture, `${open.state.piece.name}.png`);
    else useWork.setState({ refusal: 'This machine cannot draw a picture so large; take a smaller one.' });
  };
  return (
    <section className="panel" aria-label="Picture">
      <b>Picture:</b>
      {side('px wide', 'width')}
      {side('px high', 'height')}
      <label className="check">
        <input
          type="checkbox"
          checked={shot.floor}
          onChange={(e) => setShot({ ...shot, floor: e.currentTarget.checked })}
        />{' '}
        with the wheel
      </label>
      <button type="button" className="plain small go" onClick={() => void save()}>
        Take it as PNG
      </button>
      <Leave />
    </section>
  );
}
