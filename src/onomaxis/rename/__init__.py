"""A wish for identifiers, names and versions, planned and proved."""
