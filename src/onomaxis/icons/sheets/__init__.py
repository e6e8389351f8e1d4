"""Pictures of the icons as people meet them: home screen, app switcher, settings, stores, and under masks."""
