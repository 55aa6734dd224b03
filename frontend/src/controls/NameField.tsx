/** A name that becomes a text field when it is clicked. */
import { useState } from 'react';

type Props = { name: string; className?: string; label: string; onRename: (name: string) => void };

export function NameField({ name, className, label, onRename }: Props) {
  const [draft, setDraft] = useState<string | null>(null);
  if (draft === null) {
    return (
      <button
        type="button"
        className={`bare ${className ?? ''}`}
        title={`${label}: click to rename`}
        onClick={() => setDraft(name)}
      >
        {name}
      </button>
    );
  }
  const apply = () => {
    const trimmed = draft.trim().slice(0, 80);
    setDraft(null);
    if (trimmed && trimmed !== name) onRename(trimmed);
  };
  return (
    <input
      className="name-input"
      aria-label={label}
      value={draft}
      maxLength={80}
      ref={(input) => input?.focus()}
      onChange={(e) => setDraft(e.currentTarget.value)}
      onBlur={apply}
      onKeyDown={(e) => {
        if (e.key === 'Enter') apply();
        if (e.key === 'Escape') setDraft(null);
        e.stopPropagation();
      }}
    />
  );
}
