"""Side-by-side measurements: each prints a table and, as its last line, one JSON object. `--quick` stays under 40 s."""
