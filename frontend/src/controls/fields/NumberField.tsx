/** A number that can be typed as a sum with units; Enter applies, Esc restores. */
import { useId } from 'react';
import { short } from '../format';
import { useTyped } from './useTyped';

type Props = {
  label: string;
  value: number | null;
  unit?: string;
  title?: string;
  disabled?: boolean;
  least?: number;
  most?: number;
  /** A bound that it may not reach. */
  above?: number;
  wholeNumber?: boolean;
  onApply: (value: number) => void;
  /** Where it may be left out: done when the field is emptied; `none` is the word for that. */
  onLeaveOut?: () => void;
  none?: string;
};

export function NumberField(props: Props) {
  const { label, value, unit, title, disabled, onApply, onLeaveOut, none } = props;
  const id = useId();
  const { wrong, input } = useTyped({
    value,
    shown: value === null ? '' : short(value) + (unit === '°' ? '°' : ''),
    refusal: (v) => refusal(v, props),
    onApply,
    onLeaveOut,
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
        placeholder={none}
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

function refusal(value: number, { wholeNumber, least, most, above }: Props): string | null {
  if (wholeNumber && !Number.isInteger(value)) return 'a whole number, please';
  if (least !== undefined && value < least) return `at least ${least}`;
  if (above !== undefined && value <= above) return `above ${above}`;
  if (most !== undefined && value > most) return `at most ${most.toLocaleString('en')}`;
  return null;
}
