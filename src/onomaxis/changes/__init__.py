"""From a wish to new bytes: changeset, preview, journal, writing, undo."""
