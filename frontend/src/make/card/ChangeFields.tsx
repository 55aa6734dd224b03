/** The fields of one shape change, as the catalogue lists them. */
import type { ChangeInfo, ShapeChange } from '../../api/client';
import { RecordFields } from '../../controls/fields/RecordFields';
import type { Values } from '../../controls/fields/starts';

type Props = {
  info: ChangeInfo;
  change: ShapeChange;
  locked: boolean;
  triangles: number;
  onSet: (change: ShapeChange) => void;
};

export function ChangeFields({ info, change, locked, triangles, onSet }: Props) {
  const values = change as unknown as Values;
  return (
    <>
      <div className="fields">
        <RecordFields
          fields={info.fields}
          either={info.either}
          values={values}
          disabled={locked}
          onSet={(changed) => onSet({ ...values, ...changed } as unknown as ShapeChange)}
        />
      </div>
      {info.kind === 'subdivide' && (
        <p className="quiet mb-0">
          One step more makes about four times as many triangles; the piece has{' '}
          {triangles.toLocaleString('en')}.
        </p>
      )}
    </>
  );
}
