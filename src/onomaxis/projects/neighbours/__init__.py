"""A flavor as its neighbours: what a text or a tree says of each of them, said of one more, or of one less."""
