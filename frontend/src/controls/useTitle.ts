/** The window's title: what is open, before the name of the application. */
import { useEffect } from 'react';

const OURS = 'Noble Clay';

export function useTitle(what: string | null) {
  useEffect(() => {
    document.title = what ? `${what} · ${OURS}` : OURS;
    return () => {
      document.title = OURS;
    };
  }, [what]);
}
