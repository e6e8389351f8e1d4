"""The options of every command: what all share, those of commands that change, those of commands that tell."""
