/** One of a few words, as a field of a card. */
import { useId } from 'react';

type Props = {
  label: string;
  value: string;
  options: { value: string; word: string }[];
  title?: string;
  disabled?: boolean;
  onApply: (value: string) => void;
};

export function ChoiceField({ label, value, options, title, disabled, onApply }: Props) {
  const id = useId();
  return (
    <div className="field">
      <label htmlFor={id} title={title}>
        {label}
      </label>
      <select id={id} value={value} disabled={disabled} onChange={(e) => onApply(e.currentTarget.value)}>
        {options.map((o) => (
          <option key={o.value} value={o.value}>
            {o.word}
          </option>
        ))}
      </select>
    </div>
  );
}

/** The sides of a part's own box, as the fields of shape changes name them. */
export const SIDE_WORDS: Record<string, string> = {
  'z+': 'top',
  'z-': 'under',
  'x-': 'left',
  'x+': 'right',
  'y-': 'front',
  'y+': 'back',
};
