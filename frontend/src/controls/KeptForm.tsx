/** What is written beside a part of the drawer: its name, tags, notes, and whether its copies keep their size. */
import { useState } from 'react';
import type { KeptFields } from '../api/client';

type Props = {
  fields: KeptFields;
  word: string;
  busy: boolean;
  onKeep: (fields: KeptFields) => void;
  onLeave: () => void;
};

export function KeptForm({ fields, word, busy, onKeep, onLeave }: Props) {
  const [name, setName] = useState(fields.name);
  const [tags, setTags] = useState(fields.tags.join(', '));
  const [notes, setNotes] = useState(fields.notes);
  const [fixed, setFixed] = useState(fields.fixed);
  return (
    <form
      className="kept-form"
      aria-label={word}
      onSubmit={(e) => {
        e.preventDefault();
        if (name.trim()) onKeep({ name: name.trim(), tags: tagsOf(tags), notes, fixed });
      }}
      onKeyDown={(e) => {
        if (e.key === 'Escape') onLeave();
        e.stopPropagation();
      }}
    >
      <label>
        Name
        <input value={name} maxLength={80} ref={focusOnce} onChange={(e) => setName(e.currentTarget.value)} />
      </label>
      <label>
        Tags
        <input
          value={tags}
          placeholder="shell, sea, round"
          onChange={(e) => setTags(e.currentTarget.value)}
        />
      </label>
      <label>
        Notes
        <textarea
          rows={2}
          value={notes}
          maxLength={20000}
          onChange={(e) => setNotes(e.currentTarget.value)}
        />
      </label>
      <fieldset>
        <legend>Size</legend>
        <label>
          <input type="radio" checked={!fixed} onChange={() => setFixed(false)} /> free: each piece makes it
          as large as it likes
        </label>
        <label>
          <input type="radio" checked={fixed} onChange={() => setFixed(true)} /> fixed: as for a magnet or a
          screw, until a piece frees it
        </label>
      </fieldset>
      <div className="buttons">
        <button type="submit" className="plain go small" disabled={busy || !name.trim()}>
          {word}
        </button>
        <button type="button" className="plain small" onClick={onLeave}>
          Leave it
        </button>
      </div>
    </form>
  );
}

const focusOnce = (input: HTMLInputElement | null) => {
  if (!input || input.dataset.focused) return;
  input.dataset.focused = 'yes';
  input.focus();
  input.select();
};

/** The tags of a line with commas between them, each once. */
export function tagsOf(line: string): string[] {
  const found = line.split(',').map((tag) => tag.trim().slice(0, 40));
  return [...new Set(found.filter(Boolean))].slice(0, 20);
}
