/** The stages of a piece, as the frame around them names them; what each is stands in `main.tsx`. */
import { createContext, useContext } from 'react';

export type StageName = { path: string; name: string };

export const Stages = createContext<StageName[]>([]);
export const useStages = () => useContext(Stages);
