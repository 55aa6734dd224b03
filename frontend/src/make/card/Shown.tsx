/** How a part is shown and whether it counts. */
import type { Part } from '../../api/client';
import type { Actions } from '../actions';

export function Shown({ part, actions }: { part: Part; actions: Actions }) {
  const fields = [
    ['reference', 'reference only: shown, never printed'],
    ['hidden', 'hidden from the view'],
    ['locked', 'locked'],
  ] as const;
  return (
    <div className="section">
      <h3>Shown</h3>
      {fields.map(([field, word]) => (
        <label key={field} className="d-block">
          <input type="checkbox" checked={part[field]} onChange={() => actions.toggle(field)} /> {word}
        </label>
      ))}
    </div>
  );
}
