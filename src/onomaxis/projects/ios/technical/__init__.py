"""The technical rename of an Xcode project: project, targets, schemes, folders, modules."""
