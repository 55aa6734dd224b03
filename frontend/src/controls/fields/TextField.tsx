/** A line of text, or several: applied when the field is left, or by Enter in a single line; Esc restores. */
import { useId, useState } from 'react';

type Props = {
  label: string;
  value: string;
  title?: string;
  disabled?: boolean;
  longest?: number;
  lines?: boolean;
  onApply: (value: string) => void;
};

export function TextField({ label, value, title, disabled, longest, lines, onApply }: Props) {
  const id = useId();
  const [draft, setDraft] = useState<string | null>(null);
  const apply = () => {
    setDraft(null);
    if (draft !== null && draft !== value) onApply(draft);
  };
  const input = {
    id,
    disabled,
    maxLength: longest,
    value: draft ?? value,
    onChange: (e: React.ChangeEvent<HTMLInputElement | HTMLTextAreaElement>) =>
      setDraft(e.currentTarget.value),
    onBlur: apply,
    onKeyDown: (e: React.KeyboardEvent<HTMLElement>) => {
      // Once it is taken, the keys are the view's again.
      if (e.key === 'Enter' && !lines) e.currentTarget.blur();
      if (e.key === 'Escape') setDraft(null);
      e.stopPropagation();
    },
  };
  return (
    <div className="field">
      <label htmlFor={id} title={title}>
        {label}
      </label>
      {lines ? <textarea rows={3} {...input} /> : <input autoComplete="off" {...input} />}
    </div>
  );
}
