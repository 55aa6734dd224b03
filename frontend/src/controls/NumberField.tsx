/** A number that can be typed as a sum with units; Enter applies, Esc restores. */
import { useId } from 'react';
import { short } from './format';
import { useTyped } from './useTyped';

type Props = {
  label: string;
  value: number;
  unit?: string;
  title?: string;
  disabled?: boolean;
  least?: number;
  most?: number;
  wholeNumber?: boolean;
  onApply: (value: number) => void;
};

export function NumberField({
  label,
  value,
  unit,
  title,
  disabled,
  least,
  most,
  wholeNumber,
  onApply,
}: Props) {
  const id = useId();
  const { wrong, input } = useTyped({
    value,
    shown: short(value) + (unit === '°' ? '°' : ''),
    refusal: (v) => refusal(v, least, most, wholeNumber),
    onApply,
  });
  return (
    <div className="field">
      <label htmlFor={id} title={title}>
        {label}
      </label>
      <input
        id={id}
        disabled={disabled}
        inputMode="text"
        autoComplete="off"
        aria-describedby={wrong ? `${id}-wrong` : undefined}
        {...input}
      />
      {wrong && (
        <div id={`${id}-wrong`} className="wrong" role="alert">
          {wrong}
        </div>
      )}
    </div>
  );
}

function refusal(value: number, least?: number, most?: number, wholeNumber?: boolean): string | null {
  if (wholeNumber && !Number.isInteger(value)) return 'a whole number, please';
  if (least !== undefined && value < least) return `at least ${least}`;
  if (most !== undefined && value > most) return `at most ${most.toLocaleString('en')}`;
  return null;
}
