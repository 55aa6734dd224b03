/** While parts are dragged: by how much, where to, and what caught them. */

import { useEditor } from '../controls/editor';
import { useDraft } from '../viewport/drafts';

export function DragNote() {
  const drag = useEditor((s) => s.drag);
  const { lost, refusal } = useDraft();
  if (!drag) return null;
  return (
    <output className="note numbers" data-testid="drag-note">
      {drag.edit && refusal ? refusal : drag.said}
      {drag.snaps.length > 0 && ` · caught by ${drag.snaps.map((c) => c.words).join(', ')}`}
      {lost && drag.edit && ' · the joined skin follows when you let go'}
    </output>
  );
}
