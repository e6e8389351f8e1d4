"""From one piece of art to every icon slot of a project."""
