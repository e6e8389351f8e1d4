"""The command line: one module per command; no rule of the job stands here."""
