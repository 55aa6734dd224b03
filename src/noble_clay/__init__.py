"""Noble Clay: figures from primitives, joined, mended and made printable."""

__version__ = "0.1.0"
