"""Value types of an identity and the platforms' rules for them."""
