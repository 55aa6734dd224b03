/** A button that carries out a fix; it waits while a mending is under way. */
import type { Fix } from './finding';

/** Carries out a fix; null while none can be. */
export type RunFix = ((fix: Fix) => void) | null;

type Props = { fix: Fix; run: RunFix; className?: string };

export function FixButton({ fix, run, className = 'plain small' }: Props) {
  return (
    <button type="button" className={className} title={fix.title} disabled={!run} onClick={() => run?.(fix)}>
      {fix.label}
    </button>
  );
}
