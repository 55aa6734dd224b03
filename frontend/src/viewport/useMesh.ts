/** The drawable of a key; while a new one loads, the one before it stays in sight. What is in sight is kept. */
import { useEffect, useState } from 'react';
import { type Drawable, loadMesh } from './meshes';

export function useMesh(key: string | null, onLost?: () => void): { key: string; mesh: Drawable } | null {
  const [shown, setShown] = useState<{ key: string; mesh: Drawable } | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a new key loads anew
  useEffect(() => {
    if (key === null) {
      setShown(null);
      return;
    }
    let current = true;
    loadMesh(key).then(
      (mesh) => {
        if (!current) return;
        setShown({ key, mesh });
      },
      () => current && onLost?.(),
    );
    return () => {
      current = false;
    };
  }, [key]);
  const mesh = shown?.mesh;
  useEffect(() => {
    if (!mesh) return;
    mesh.users++;
    return () => {
      mesh.users--;
    };
  }, [mesh]);
  return shown;
}
