/** One line of the recipe: fold, name, what it is, marks, and how it is shown; it can be dragged to another place. */
import type { Mark, Part, PartFields } from '../api/client';
import { plural } from '../controls/format';
import { childrenOf, SIGN } from '../controls/tree';
import { briefly } from './card/CopiesFields';
import { sayMark } from './marks';
import type { Row } from './Recipe';

export type Drop = 'before' | 'after' | 'into';
const DRAGGED = 'application/x-clay-part';

type Props = {
  row: Row;
  chosen: boolean;
  unfolded: boolean | undefined;
  size: [number, number, number] | null;
  leftOut: string | undefined;
  /** Why it cannot be made. */
  impossible: string | undefined;
  marks: Mark[];
  dropAt: Drop | null;
  onClick: (e: React.MouseEvent) => void;
  onKey: (e: React.KeyboardEvent) => void;
  onFold: () => void;
  onFields: (fields: Partial<PartFields>) => void;
  onOver: (where: Drop | null) => void;
  onDrop: (where: Drop, dragged: string) => void;
};

export function Line({ row, chosen, unfolded, size, leftOut, impossible, marks, dropAt, ...on }: Props) {
  const { part, depth, body } = row;
  const role = part.reference ? 'reference' : part.op;
  const where = (e: React.DragEvent): Drop => {
    const box = e.currentTarget.getBoundingClientRect();
    const share = (e.clientY - box.top) / box.height;
    if (part.join && share > 0.25 && share < 0.8) return 'into';
    return share < 0.5 ? 'before' : 'after';
  };
  return (
    <div
      id={`line-${part.id}`}
      role="treeitem"
      tabIndex={0}
      aria-selected={chosen}
      aria-expanded={unfolded}
      aria-level={depth + 1}
      className={`line ${chosen ? 'chosen' : ''} ${part.hidden ? 'hidden' : ''} ${dropAt ? `drop-${dropAt}` : ''}`}
      style={{ paddingLeft: 6 + depth * 18 }}
      draggable={!part.locked}
      onDragStart={(e) => {
        e.dataTransfer.setData(DRAGGED, part.id);
        e.dataTransfer.effectAllowed = 'move';
      }}
      onDragOver={(e) => {
        if (!e.dataTransfer.types.includes(DRAGGED)) return;
        e.preventDefault();
        on.onOver(where(e));
      }}
      onDragLeave={() => on.onOver(null)}
      onDrop={(e) => {
        e.preventDefault();
        on.onDrop(where(e), e.dataTransfer.getData(DRAGGED));
      }}
      onClick={on.onClick}
      onKeyDown={on.onKey}
    >
      <button
        type="button"
        tabIndex={-1}
        className={`glyph ${role}`}
        title={`${saySign(part, body)}${part.join ? '; click to fold' : ''}`}
        onClick={(e) => {
          if (!part.join) return;
          e.stopPropagation();
          on.onFold();
        }}
      >
        {part.join ? (unfolded ? '▾' : '▸') : part.reference ? '·' : SIGN[part.op]}
      </button>
      <span className={`label ${part.join ? 'join' : ''}`}>
        {part.join && part.op !== 'union' && `${SIGN[part.op]} `}
        {part.name}
      </span>
      <small>
        {impossible ? (
          <span className="wrong-mark" title={impossible}>
            ▲ cannot be made
          </span>
        ) : leftOut ? (
          <span className="odd-mark" title={leftOut}>
            left out
          </span>
        ) : marks[0] ? (
          <span className="odd-mark" title={marks.map((m) => sayMark(m).why).join('; ')}>
            ▲ {sayMark(marks[0]).word}
          </span>
        ) : (
          about(part, size)
        )}
      </small>
      <span className="shows">
        <Toggle
          on={part.locked}
          sign={['▣', '▢']}
          words={[`Unlock ${part.name}`, `Lock ${part.name}`]}
          title={part.locked ? 'Locked: click to unlock' : 'Lock: it cannot be changed by mistake'}
          onClick={() => on.onFields({ locked: !part.locked })}
        />
        <Toggle
          on={part.hidden}
          sign={['◌', '◉']}
          words={[`Show ${part.name}`, `Hide ${part.name}`]}
          title={part.hidden ? 'Show (it counts either way)' : 'Hide from the view (it still counts)'}
          onClick={() => on.onFields({ hidden: !part.hidden })}
        />
      </span>
    </div>
  );
}

type ToggleProps = {
  on: boolean;
  sign: [string, string];
  words: [string, string];
  title: string;
  onClick: () => void;
};

function Toggle({ on, sign, words, title, onClick }: ToggleProps) {
  return (
    <button
      type="button"
      tabIndex={-1}
      className={`bare quiet ${on ? 'on' : ''}`}
      aria-label={words[on ? 0 : 1]}
      title={title}
      onClick={(e) => {
        e.stopPropagation();
        onClick();
      }}
    >
      {sign[on ? 0 : 1]}
    </button>
  );
}

function saySign(part: Part, body: boolean): string {
  if (part.reference) return 'a reference: shown, never part of the result';
  if (body) return 'the body: the list begins with it';
  return { union: 'adds', difference: 'cuts', intersection: 'keeps only what is shared' }[part.op];
}

function about(part: Part, size: [number, number, number] | null): string {
  if (part.copies) return briefly(part.copies);
  if (part.primitive) return part.primitive.kind;
  if (part.mesh) return 'mesh';
  return size ? size.map((s) => Math.round(s)).join('×') : plural(childrenOf(part).length, 'part');
}
