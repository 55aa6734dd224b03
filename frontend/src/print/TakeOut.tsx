/** The piece as a file, in every format there is, as fine as it is or coarser. */
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { NavLink } from 'react-router';
import { useFormats } from '../api/pieces';
import { takeOut } from '../api/takeOut';
import { NumberField } from '../controls/fields/NumberField';
import type { Open } from '../controls/PieceFrame';

export function TakeOut({ open, sound }: { open: Open; sound: boolean }) {
  const formats = useFormats().data?.filter((f) => f.offered && f.writes) ?? [];
  const [coarser, setCoarser] = useState(0);
  const taking = useMutation({ mutationFn: takeOut });
  const url = (ending: string) =>
    `/api/pieces/${open.id}/export?format=${ending}${coarser > 0 ? `&coarser=${coarser}` : ''}`;
  return (
    <div className="section" data-testid="take-out">
      <h3>Take it out</h3>
      {!sound && (
        <p className="mb-2" role="note">
          This piece is not one sound body: look at <NavLink to={`/pieces/${open.id}/mend`}>Mend</NavLink>{' '}
          first, or take it as it is.
        </p>
      )}
      <div className="d-flex flex-wrap gap-2">
        {formats.map((f, i) => (
          <a
            key={f.ending}
            className={i === 0 ? 'plain go' : 'plain'}
            title={f.about}
            href={url(f.ending)}
            download
            onClick={(e) => {
              if (coarser === 0) return;
              // So coarse it may be refused, in words.
              e.preventDefault();
              taking.mutate(url(f.ending));
            }}
          >
            {f.name}
          </a>
        ))}
      </div>
      <p className="quiet mt-2 mb-1">{formats[0] && `${formats[0].name}: ${formats[0].about}`}</p>
      <div className="fields">
        <NumberField
          label="Coarser, mm"
          value={coarser}
          least={0}
          most={10}
          title="How far the surface may be elsewhere in the file, for fewer triangles; 0 as it is"
          onApply={(by) => {
            setCoarser(by);
            taking.reset();
          }}
        />
      </div>
      {taking.isPending && <p className="quiet mb-0">Writing it …</p>}
      {taking.error && (
        <p className="text-danger mb-0" role="alert">
          {taking.error.message}
        </p>
      )}
    </div>
  );
}
