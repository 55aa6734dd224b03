"""The computation: pieces, solids, mending and measures. Knows no web, no database and no screen."""
