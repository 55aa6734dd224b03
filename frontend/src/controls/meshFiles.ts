/** Files of meshes, and handing them over to the Mend stage, which takes them in. */
export const MESH_ENDINGS = '.stl,.3mf,.obj,.ply,.glb';

const isMesh = (file: File) => MESH_ENDINGS.split(',').some((e) => file.name.toLowerCase().endsWith(e));

export const meshesAmong = (files: Iterable<File>): File[] => [...files].filter(isMesh);

let handed: File[] = [];

/** To be taken in by the Mend stage once that opens. */
export const handOver = (files: File[]): void => {
  handed = files;
};

/** What was handed over; once. */
export const takeOver = (): File[] => {
  const files = handed;
  handed = [];
  return files;
};

/** A name for a piece that begins with a file: the file's, without its ending. */
export const nameOf = (file: File): string => file.name.replace(/\.[^.]*$/, '').slice(0, 60) || 'Mesh';
