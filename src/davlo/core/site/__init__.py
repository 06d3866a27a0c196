"""A site as it was read: the catalogue, the tree, facts, declarations, people, statements."""
