/** A number being typed, as a sum with units: Enter applies, Esc restores, what is wrong is told and changes nothing. */
import { useRef, useState } from 'react';
import { answered, api, Refused } from '../../api/client';

const PLAIN = /^\s*-?\d+([.,]\d+)?\s*$/;

/** What a typed text comes to; the server knows sums and units. */
export async function readSum(text: string): Promise<number> {
  if (PLAIN.test(text)) return Number(text.replace(',', '.'));
  return (await answered<{ value: number }>(api.GET('/api/sum', { params: { query: { text } } }))).value;
}

type Typed = {
  /** None where the number may be left out, and is. */
  value: number | null;
  shown: string;
  /** Why a number cannot be taken, or null. */
  refusal: (value: number) => string | null;
  onApply: (value: number) => void;
  /** An empty field leaves the number out; where it may not be, this is not given. */
  onLeaveOut?: () => void;
};

export function useTyped({ value, shown, refusal, onApply, onLeaveOut }: Typed) {
  const [draft, setDraft] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  // Leaving the field right after Enter must not take the number once more.
  const taken = useRef(false);
  const restore = () => {
    taken.current = true;
    setDraft(null);
    setWrong(null);
  };
  /** Whether what was typed could be taken. */
  const apply = async (): Promise<boolean> => {
    if (draft === null || draft === shown) {
      restore();
      return true;
    }
    if (onLeaveOut && draft.trim() === '') {
      restore();
      if (value !== null) onLeaveOut();
      return true;
    }
    try {
      const read = await readSum(draft);
      const found = refusal(read);
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
  const input = {
    value: draft ?? shown,
    'aria-invalid': wrong !== null,
    onFocus: (e: React.FocusEvent<HTMLInputElement>) => e.currentTarget.select(),
    onChange: (e: React.ChangeEvent<HTMLInputElement>) => {
      taken.current = false;
      setDraft(e.currentTarget.value);
      setWrong(null);
    },
    onBlur: () => {
      if (wrong === null && !taken.current) void apply();
    },
    onKeyDown: (e: React.KeyboardEvent<HTMLInputElement>) => {
      const box = e.currentTarget;
      // Once it is taken, the keys are the view's again.
      if (e.key === 'Enter') void apply().then((well) => well && box.blur());
      if (e.key === 'Escape') {
        restore();
        box.blur();
      }
      e.stopPropagation();
    },
  };
  const begin = () => {
    taken.current = false;
    setDraft(shown);
  };
  return { draft, wrong, begin, input };
}
