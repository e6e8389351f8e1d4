"""The page to show around: what every flavor is called, what is wrong, what was published, what changed."""
