"""Named places that a brand fills, one module per family: what each reads for a flavor, and how it is written."""
