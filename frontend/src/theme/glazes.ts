/** The named palette. */
export const GLAZES = [
  { name: 'Bone', colour: '#e9dfc9' },
  { name: 'Shino', colour: '#e2b08a' },
  { name: 'Celadon', colour: '#a9c4ae' },
  { name: 'Lichen', colour: '#8f9a5b' },
  { name: 'Copper', colour: '#c9683f' },
  { name: 'Oxblood', colour: '#8c2f2b' },
  { name: 'Rutile', colour: '#c99a4b' },
  { name: 'Tenmoku', colour: '#4a2f24' },
  { name: 'Cobalt', colour: '#2f4f86' },
  { name: 'Ash', colour: '#9a9c97' },
  { name: 'Slip', colour: '#f4f1ea' },
  { name: 'Kiln black', colour: '#26282a' },
] as const;
