"""Native iOS projects: Xcode project files, configuration files, property lists, sources."""
