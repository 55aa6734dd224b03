/** The picture of a part of the drawer; drawn first where it is missing or old. */
import type { KeptCard } from '../api/client';
import { useCardPicture } from './useCardPicture';

export function KeptPicture({ card }: { card: KeptCard }) {
  const { address, none } = useCardPicture(card);
  if (address) return <img className="kept-picture" src={address} alt="" draggable={false} />;
  return <small className="quiet">{card.problem ? 'cannot be read' : none ? 'no picture' : '…'}</small>;
}
