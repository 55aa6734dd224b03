/** The drawable of a key; while a new one loads, the one before it stays in sight. What is in sight is kept. */
import { useEffect, useState } from 'react';
import { type Drawable, loadMesh } from './meshes';

let coming = 0;

/** For tests: how many meshes are on their way to the view stands on the page. What comes back says that one is there. */
function comes(): () => void {
  const tell = (by: number) => {
    coming += by;
    document.body.dataset.coming = String(coming);
  };
  tell(1);
  let there = false;
  return () => {
    if (!there) tell(-1);
    there = true;
  };
}

export function useMesh(key: string | null, onLost?: () => void): { key: string; mesh: Drawable } | null {
  const [shown, setShown] = useState<{ key: string; mesh: Drawable } | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a new key loads anew
  useEffect(() => {
    if (key === null) {
      setShown(null);
      return;
    }
    let current = true;
    const there = comes();
    loadMesh(key)
      .then(
        (mesh) => {
          if (current) setShown({ key, mesh });
        },
        () => current && onLost?.(),
      )
      .finally(there);
    return () => {
      current = false;
      there();
    };
  }, [key]);
  useUsed(shown?.mesh);
  return shown;
}

/** A mesh is in sight, as long as whoever asks is. */
export function useUsed(mesh: Drawable | undefined) {
  useEffect(() => {
    if (!mesh) return;
    mesh.users++;
    return () => {
      mesh.users--;
    };
  }, [mesh]);
}
