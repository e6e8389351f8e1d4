"""What a built package says of itself, by readers of its own, and how that compares with a project."""
