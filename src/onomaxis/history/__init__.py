"""What a repository's history says of an identity: the tree of a revision, what differs from it, when it changed."""
