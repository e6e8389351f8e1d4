"""A brand put on a project whole: identity, values, service files, icons, launch screens, in one change."""
