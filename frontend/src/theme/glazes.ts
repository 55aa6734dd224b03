/** The named palette. */
import words from '../api/words.json';

export const GLAZES = Object.entries(words.glazes).map(([name, colour]) => ({ name, colour }));
