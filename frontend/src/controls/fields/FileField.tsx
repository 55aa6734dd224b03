/** The text of a small file, kept in the piece itself. */
import { useId } from 'react';
import { FileButton } from '../FileButton';

type Props = {
  label: string;
  value: string;
  accepts: string[];
  title?: string;
  disabled?: boolean;
  onApply: (text: string) => void;
};

export function FileField({ label, value, accepts, title, disabled, onApply }: Props) {
  const id = useId();
  return (
    <div className="field" title={title}>
      <span id={id}>{label}</span>
      {disabled ? (
        <span className="quiet">{value.length.toLocaleString('en')} letters</span>
      ) : (
        <FileButton
          word={value ? 'Another file …' : 'A file …'}
          label={`${label}: a file`}
          accept={accepts.join(',')}
          onFiles={([file]) => void file?.text().then(onApply)}
        />
      )}
    </div>
  );
}
