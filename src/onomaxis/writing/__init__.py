"""Carrying a planned change out: as files before and after, on disk, all or nothing; taking it back."""
