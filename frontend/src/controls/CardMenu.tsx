/** The menu of a card, behind three dots. */
import type { ReactNode } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';

export function CardMenu({ name, children }: { name: string; children: ReactNode }) {
  return (
    <Dropdown align="end">
      <Dropdown.Toggle bsPrefix="card-menu" as="button" type="button" aria-label={`More about ${name}`}>
        ⋯
      </Dropdown.Toggle>
      <Dropdown.Menu>{children}</Dropdown.Menu>
    </Dropdown>
  );
}
