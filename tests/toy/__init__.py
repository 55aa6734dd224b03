"""An extension with one of each thing that is registered; tests show that nothing more is needed to add it."""
