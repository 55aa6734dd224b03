/** The piece as a file, in every format there is: as fine as it is or coarser, as one body or as several. */
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { NavLink } from 'react-router';
import { useFormats } from '../api/pieces';
import { useByGlaze } from '../api/printing';
import { takeOut } from '../api/takeOut';
import { ChoiceField } from '../controls/fields/ChoiceField';
import { NumberField } from '../controls/fields/NumberField';
import type { Open } from '../controls/PieceFrame';
import { AskedFor } from './AskedFor';

const BODIES = [
  { value: 'one', word: 'one' },
  { value: 'parts', word: 'parts' },
  { value: 'glazes', word: 'glazes' },
];

export function TakeOut({ open, sound }: { open: Open; sound: boolean }) {
  const formats = useFormats().data?.filter((f) => f.offered && f.writes) ?? [];
  const [coarser, setCoarser] = useState(0);
  const [bodies, setBodies] = useState('one');
  const taking = useMutation({ mutationFn: takeOut });
  const plain = coarser === 0 && bodies === 'one';
  const asked = bodies === 'parts' ? '&apart=true' : coarser > 0 ? `&coarser=${coarser}` : '';
  const url = (ending: string) => `/api/pieces/${open.id}/export?format=${ending}${asked}`;
  return (
    <div className="section" data-testid="take-out">
      <h3>Take it out</h3>
      {!sound && (
        <p className="mb-2" role="note">
          This piece is not one sound body: look at <NavLink to={`/pieces/${open.id}/mend`}>Mend</NavLink>{' '}
          first, or take it as it is.
        </p>
      )}
      {bodies === 'glazes' ? (
        <ByGlaze open={open} />
      ) : (
        <>
          <div className="d-flex flex-wrap gap-2">
            {formats.map((f, i) => (
              <a
                key={f.ending}
                className={i === 0 ? 'plain go' : 'plain'}
                title={f.about}
                href={url(f.ending)}
                download
                onClick={(e) => {
                  if (plain) return;
                  // So coarse, or so taken apart, it may be refused, in words.
                  e.preventDefault();
                  taking.mutate(url(f.ending));
                }}
              >
                {f.name}
              </a>
            ))}
          </div>
          <p className="quiet mt-2 mb-1">{formats[0] && `${formats[0].name}: ${formats[0].about}`}</p>
        </>
      )}
      <div className="fields">
        <ChoiceField
          label="Bodies"
          value={bodies}
          options={BODIES}
          title="Several bodies fill the piece between them, in one 3MF or as a file each in a ZIP. By part: one for every line of the recipe, and what was put on later is set into what was there. By glaze: one for every colour, each as deep as halfway to the next"
          onApply={(by) => {
            setBodies(by);
            taking.reset();
          }}
        />
        <NumberField
          label="Coarser, mm"
          value={coarser}
          least={0}
          most={10}
          disabled={bodies !== 'one'}
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

function ByGlaze({ open }: { open: Open }) {
  return (
    <>
      <AskedFor asked={useByGlaze(open.id, open.state.revision)} word="Divide it by glaze">
        {(job) => (
          <>
            <a className="plain go" href={`/api/jobs/${job}/by-glaze.3mf`} download>
              3MF
            </a>
            <a className="plain" href={`/api/jobs/${job}/by-glaze.zip`} download>
              STL files
            </a>
          </>
        )}
      </AskedFor>
      <p className="quiet mt-2 mb-1">
        A body for every colour, for a printer that changes filament: they meet halfway inside.
      </p>
    </>
  );
}
