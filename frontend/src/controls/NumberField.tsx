/** A number that can be typed as a sum with units; Enter applies, Esc restores. */
import { useId, useState } from 'react';
import { answered, api, Refused } from '../api/client';
import { short } from './format';

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

const PLAIN = /^\s*-?\d+([.,]\d+)?\s*$/;

/** What a typed text comes to; the server knows sums and units. */
export async function readSum(text: string): Promise<number> {
  if (PLAIN.test(text)) return Number(text.replace(',', '.'));
  return (await answered<{ value: number }>(api.GET('/api/sum', { params: { query: { text } } }))).value;
}

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
  const [draft, setDraft] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const shown = short(value) + (unit === '°' ? '°' : '');

  const restore = () => {
    setDraft(null);
    setWrong(null);
  };
  /** Whether what was typed could be taken. */
  const apply = async (): Promise<boolean> => {
    if (draft === null || draft === shown) {
      restore();
      return true;
    }
    try {
      const read = await readSum(draft);
      const found = refusal(read, least, most, wholeNumber);
      setWrong(found);
      if (found) return false;
      restore();
      if (read !== value) onApply(read);
      return true;
    } catch (error) {
      setWrong(
        error instanceof Refused ? error.message : 'The server does not answer; try again in a moment.',
      );
      return false;
    }
  };
  return (
    <div className="field">
      <label htmlFor={id} title={title}>
        {label}
      </label>
      <input
        id={id}
        value={draft ?? shown}
        disabled={disabled}
        inputMode="text"
        autoComplete="off"
        aria-invalid={wrong !== null}
        aria-describedby={wrong ? `${id}-wrong` : undefined}
        onFocus={(e) => e.currentTarget.select()}
        onChange={(e) => {
          setDraft(e.currentTarget.value);
          setWrong(null);
        }}
        onBlur={() => wrong === null && void apply()}
        onKeyDown={(e) => {
          const box = e.currentTarget;
          // Once it is taken, the keys are the view's again.
          if (e.key === 'Enter') void apply().then((taken) => taken && box.blur());
          if (e.key === 'Escape') {
            restore();
            e.currentTarget.blur();
          }
          e.stopPropagation();
        }}
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
